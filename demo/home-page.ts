import type { CardsSection } from '../sections/cards/spec';
import type { ListSection } from '../sections/list/spec';
import type { TextSection } from '../sections/text/spec';
import type { Page } from '../core/definition/definition';
import { aboveLimit, when } from './page-parts';

/** Where an owner begins: their wells with a picture, what comes next, and what was found above a limit. */
export const homePage: Page = {
  id: 'home',
  title: 'Home',
  intro: 'Your wells, what comes next, and what needs a look.',
  audience: { roles: ['well_owner'] },
  sections: [
    {
      id: 'wells',
      kind: 'cards',
      table: 'wells',
      columns: ['code', 'address', 'state', 'treatment'],
      pictureOfFiles: true,
      across: 3,
      sort: [{ column: 'code', descending: false }],
      where: when('owner_id = :member.owners.id'),
      acts: ['ask-for-visit'],
    },
    {
      id: 'next',
      kind: 'list',
      title: 'Next visits',
      width: 'half',
      bare: true,
      table: 'visits',
      columns: ['well.code', 'planned_for', 'state'],
      headings: { 'well.code': 'Well', planned_for: 'Planned for', state: 'State' },
      sort: [{ column: 'planned_for', descending: false }],
      where: when("well.owner_id = :member.owners.id AND state IN ('asked', 'planned')"),
    },
    {
      id: 'above',
      kind: 'list',
      title: 'Above the limit',
      width: 'half',
      bare: true,
      table: 'results',
      columns: ['sample.visit.well.code', 'analyte_code_record.name', 'value', 'analyte_code_record.limit_value'],
      headings: {
        'sample.visit.well.code': 'Well',
        'analyte_code_record.name': 'Substance',
        value: 'Found',
        'analyte_code_record.limit_value': 'Limit',
      },
      marks: [aboveLimit],
      sort: [],
      where: when('sample.visit.well.owner_id = :member.owners.id AND value > analyte_code_record.limit_value'),
    },
    {
      id: 'limits',
      kind: 'text',
      text:
        'Limits are those of Directive (EU) 2020/2184, Annex I. A private well is no public supply: what is above a ' +
        'limit is for you to weigh, and the desk is glad to help.',
    },
  ] satisfies [CardsSection, ListSection, ListSection, TextSection],
};
