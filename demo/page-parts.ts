import type { ButtonsSection } from '../sections/buttons/spec';
import type { ListMark, ListSection, ListTab } from '../sections/list/spec';
import type { ChartSection } from '../sections/chart/spec';
import type { FigureSection } from '../sections/figure/spec';
import type { BringSection } from '../sections/bring/spec';
import type { PeopleSection } from '../sections/people/spec';
import type { TextSection } from '../sections/text/spec';
import { parseCondition } from '../core/condition/parse';
import type { Page, Sheet } from '../core/definition/definition';

export const when = (text: string) => parseCondition(text).condition;

/** Of results: what is above the limit of its substance. */
export const aboveLimit: ListMark = {
  id: 'above',
  word: 'above the limit',
  colour: 3,
  where: when('value > analyte_code_record.limit_value'),
  column: 'value',
};

interface Listed {
  table: string;
  where?: string;
  sort?: string;
  newestFirst?: boolean;
  columns: string[];
  group?: string;
  totals?: string[];
  tabs?: ListTab[];
  shares?: string[];
  inPlace?: string[];
  acts?: string[];
  marks?: ListMark[];
  headings?: Record<string, string>;
  opens?: ListSection['opens'];
  /** What a record shows that is opened from here; as everywhere when absent. */
  record?: string[];
}

/** How records look: as the first page has them that lists the table, if it is not said here. */
export const demoSheets: Record<string, Sheet> = {
  owners: {
    columns: ['name', 'parish', 'email', 'phone', 'contact_by', 'postal_address', 'birth_date', 'tax_number', 'iban'],
    groups: [
      { id: 'reach', title: 'How to reach', columns: ['email', 'phone', 'contact_by', 'postal_address'], across: 2 },
      { id: 'accounts', title: 'For the accounts', columns: ['birth_date', 'tax_number', 'iban'], across: 2 },
    ],
  },
};

export function page(id: string, title: string, intro: string, roles: string[], listed: Listed, text?: string): Page {
  const {
    table,
    where,
    sort,
    newestFirst,
    columns,
    group,
    totals,
    tabs,
    shares,
    inPlace,
    acts,
    marks,
    headings,
    opens,
    record,
  } = listed;
  const sheet: Sheet | undefined = record && { columns: record };
  const known = sheet && (demoSheets[table] ??= sheet);
  const list: ListSection = {
    id: table,
    kind: 'list',
    table,
    columns,
    where: where === undefined ? 'every row' : when(where),
    sort: sort === undefined ? [] : [{ column: sort, descending: newestFirst === true }],
    ...(group === undefined ? {} : { group }),
    ...(totals ? { totals } : {}),
    ...(tabs ? { tabs } : {}),
    ...(shares ? { shares } : {}),
    ...(inPlace ? { inPlace } : {}),
    ...(acts ? { acts } : {}),
    ...(marks ? { marks } : {}),
    ...(headings ? { headings } : {}),
    ...(opens ? { opens } : {}),
    ...(known === sheet || !sheet ? {} : { sheet }),
  };
  const words: TextSection[] = text === undefined ? [] : [{ id: 'words', kind: 'text', text }];
  return { id, title, intro, audience: { roles }, sections: [list, ...words] };
}

/** With a way to bring the plan as a file. */
export const planned = (of: Page): Page => ({
  ...of,
  sections: [{ id: 'plan', kind: 'bring', steward: 'weekly-plan' } satisfies BringSection, ...of.sections],
});

/** With numbers before the list. */
export const withNumbers = (numbers: (FigureSection | ChartSection)[], of: Page): Page => ({
  ...of,
  sections: [...numbers, ...of.sections],
});

export const people = (id: string, steward: string): PeopleSection => ({ id, kind: 'people', steward });

/** With what owners look for beside their wells. */
export const withWaysOn = (of: Page): Page => ({
  ...of,
  sections: [
    ...of.sections,
    {
      id: 'ways-on',
      kind: 'buttons',
      title: 'What you may want to do',
      buttons: [
        { label: 'See what was found', words: 'Results of your water', to: { page: 'my-results' } },
        { label: 'Change your address', words: 'And how we reach you', to: { page: 'my-details' } },
        { label: 'Be called by the desk', words: 'At a number that you say', to: { action: 'call-me' } },
        { label: 'Write to the desk', to: { address: 'mailto:desk@alder-fen.example.org' } },
      ],
    } satisfies ButtonsSection,
  ],
});
