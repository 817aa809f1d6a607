import type { Grant, MaskRule, Page, PortalDefinition } from '../../core/definition/definition';
import type { Mask } from '../../core/mask/mask';
import type { ChartSection } from '../../sections/chart/spec';
import type { FigureSection } from '../../sections/figure/spec';
import type { ListSection } from '../../sections/list/spec';
import { demoDefinition } from '../../demo/definition';
import { Random } from '../../core/proof/random';

const see = (...columns: string[]): Grant => ({
  see: { where: 'every row', columns },
  export: { where: 'as seen' },
});

const veil = (table: string, column: string, mask: Mask): MaskRule => ({
  id: `veil-${table}-${column}`.replaceAll('_', '-'),
  table,
  column,
  mask,
  to: ['veiled'],
  exceptRoles: [],
});

export function definition(slug: string, source: PortalDefinition['source']): PortalDefinition {
  const base = structuredClone(demoDefinition('unseen'));
  base.portal.slug = slug;
  base.source = source;
  base.roles.push({ id: 'veiled', name: 'Veiled' });
  base.rosters.find((roster) => roster.table === 'staff')!.roles!.find((rule) => rule.role === 'accounts')!.role =
    'veiled';
  Object.assign(base.access.owners!, {
    veiled: see('id', 'name', 'email', 'phone', 'birth_date', 'tax_number', 'iban', 'postal_address', 'parish'),
  });
  Object.assign(base.access.wells!, {
    veiled: see('id', 'code', 'owner_id', 'address', 'postcode', 'latitude', 'depth_m', 'drilled_on'),
  });
  Object.assign(base.access.visits!, { veiled: see('id', 'well_id', 'asked_on', 'seal_number', 'fee', 'state') });
  Object.assign(base.access.test_requests!, { veiled: see('id', 'name', 'email', 'phone', 'message') });
  base.masks.push(
    veil('owners', 'name', { style: 'initials' }),
    veil('owners', 'email', { style: 'e-mail', show: 'domain' }),
    veil('owners', 'phone', { style: 'keep first', count: 3 }),
    veil('owners', 'birth_date', { style: 'age' }),
    veil('owners', 'tax_number', { style: 'all' }),
    veil('owners', 'iban', { style: 'keep both ends', first: 2, last: 2 }),
    veil('owners', 'postal_address', { style: 'stand-in' }),
    veil('wells', 'address', { style: 'keep first', count: 2 }),
    veil('wells', 'postcode', { style: 'ZIP area' }),
    veil('wells', 'latitude', { style: 'round', digits: 1 }),
    veil('wells', 'depth_m', { style: 'step', size: '10' }),
    veil('wells', 'drilled_on', { style: 'month' }),
    veil('visits', 'asked_on', { style: 'year' }),
    veil('visits', 'seal_number', { style: 'keep last', count: 2 }),
    veil('visits', 'fee', { style: 'step', edges: ['20', '50', '80'] }),
    veil('test_requests', 'name', { style: 'initials' }),
    veil('test_requests', 'email', { style: 'e-mail', show: 'first letter' }),
    veil('test_requests', 'message', { style: 'card', first: 6, last: 4 }),
    veil('test_requests', 'phone', { style: 'area', count: 4 }),
  );
  base.promises = [];
  // Numbers of everything for everybody, whether they see it or not.
  for (const [table, columns] of Object.entries(changeable)) base.pages.push(numbersOf(table, Object.keys(columns)));
  return base;
}

function numbersOf(table: string, columns: string[]): Page {
  const first = columns[0]!;
  const second = columns[1] ?? first;
  const over = { table, where: 'every row' } as const;
  return {
    id: `numbers-${table}`,
    title: `Numbers of ${table}`,
    intro: '',
    audience: { roles: 'everyone' },
    sections: [
      { id: 'all', kind: 'list', ...over, columns: [first], sort: [], group: second, totals: columns.slice(0, 20) },
      {
        id: 'drawn',
        kind: 'chart',
        ...over,
        form: 'bars',
        measure: 'distinct',
        column: first,
        by: { column: second },
        follows: 'all',
      },
      { id: 'most', kind: 'figure', ...over, measure: 'maximum', column: first },
    ] satisfies [ListSection, ChartSection, FigureSection],
  };
}

export type Kind =
  | { text: number }
  | { date: true }
  | { moment: true }
  | { decimal: number }
  | { truth: true }
  | { choice: string[] };

const source = new Random(20261126);

const roll = () => source.next();

const some = (length: number) =>
  Array.from({ length }, () => 'abcdefghijkmnpqrstuvwxyz'[Math.floor(roll() * 24)]).join('');

const day = () => String(1 + Math.floor(roll() * 28)).padStart(2, '0');

const within = (low: number, high: number, digits: number) => (low + roll() * (high - low) * 0.95).toFixed(digits);

const initials = (value: string) =>
  value
    .split(' ')
    .map((word) => `${word[0]}${some(4)}`)
    .join(' ');

/** Months in which a birthday may fall between yesterday and tomorrow. */
const monthsNow = () => [-1, 0, 1].map((days) => new Date(Date.now() + days * 86_400_000).toISOString().slice(5, 7));

/** Another birthday in the same month, unless that could make them older today. */
const sameAge = (birth: string) => (monthsNow().includes(birth.slice(5, 7)) ? birth : `${birth.slice(0, 8)}${day()}`);

/**
 * Columns that no right asks, what may stand in them, and another value for which every mask laid on the column shows
 * the same.
 */
export const changeable: Record<string, Record<string, [Kind, ((value: string) => string)?]>> = {
  owners: {
    name: [{ text: 30 }, initials],
    phone: [{ text: 12 }, (value) => value.slice(0, 3) + some(8)],
    birth_date: [{ date: true }, sameAge],
    tax_number: [{ text: 12 }, (value) => some(6) + value.slice(-3)],
    iban: [{ text: 20 }, (value) => value.slice(0, 2) + some(12) + value.slice(-4)],
    postal_address: [{ text: 32 }],
    contact_by: [{ choice: ['e-mail', 'phone', 'letter'] }],
  },
  labs: { name: [{ text: 30 }], accreditation_number: [{ text: 12 }], valid_until: [{ date: true }] },
  lab_staff: { name: [{ text: 30 }] },
  samplers: { name: [{ text: 30 }], phone: [{ text: 12 }] },
  staff: { name: [{ text: 30 }] },
  wells: {
    address: [{ text: 30 }, (value) => value.slice(0, 2) + some(14)],
    postcode: [
      { text: 8 },
      (value) => value.slice(0, 3) + value.slice(3).replaceAll(/\d/g, () => String(Math.floor(roll() * 10))),
    ],
    latitude: [{ decimal: 90 }, (value) => (Math.round(Number(value) * 10) / 10 + (roll() - 0.5) * 0.09).toFixed(5)],
    longitude: [{ decimal: 90 }, (value) => (Math.round(Number(value) * 10) / 10 + (roll() - 0.5) * 0.09).toFixed(5)],
    depth_m: [
      { decimal: 900 },
      (value) => within(Math.floor(Number(value) / 10) * 10, Math.floor(Number(value) / 10) * 10 + 10, 1),
    ],
    casing: [{ choice: ['steel', 'plastic', 'concrete', 'stone'] }],
    drilled_on: [{ date: true }, (value) => `${value.slice(0, 8)}${day()}`],
    photo: [{ text: 20 }],
  },
  visits: {
    asked_on: [{ date: true }, (value) => `${value.slice(0, 5)}0${1 + Math.floor(roll() * 9)}-${day()}`],
    planned_for: [{ moment: true }],
    access_note: [{ text: 30 }],
    seal_number: [{ text: 12 }, (value) => some(9) + value.slice(-2)],
    fee: [
      { decimal: 900 },
      (value) => {
        const edges = [0, 20, 50, 80, 900];
        const at = edges.findLastIndex((edge) => edge <= Number(value));
        return within(edges[at]!, edges[at + 1]!, 2);
      },
    ],
    paid: [{ truth: true }],
  },
  samples: { received_at: [{ moment: true }], temperature_c: [{ decimal: 90 }], accepted: [{ truth: true }] },
  results: {
    value: [{ decimal: 900 }],
    unit: [{ text: 10 }],
    below_detection: [{ truth: true }],
    remark: [{ text: 30 }],
  },
  advisories: { title: [{ text: 30 }], text: [{ text: 30 }] },
  test_requests: {
    name: [{ text: 30 }, initials],
    email: [{ text: 20 }, (value) => `${value[0]}${some(5)}${value.slice(value.lastIndexOf('@'))}`],
    phone: [{ text: 12 }, (value) => value.slice(0, 4) + some(6)],
    wished_for: [{ date: true }],
    message: [
      { text: 30 },
      (value) => {
        const digits = value.replaceAll(/\D/g, '');
        return digits.length >= 13 && digits.length <= 19
          ? digits.slice(0, 6) +
              digits.slice(6, -4).replaceAll(/\d/g, () => String(Math.floor(roll() * 10))) +
              digits.slice(-4)
          : some(9);
      },
    ],
  },
};

export const people = {
  'well owner': 'ines.brannock@example.org',
  sampler: 'mara.lindqvist@example.org',
  'sampler and well owner': 'fenner.quillfeather4@example.org',
  'lab chemist': 'garrick.ellershaw700@example.org',
  'lab courier': 'nell.quillfeather707@example.org',
  'programme desk': 'odile.fennimore@example.org',
  'parish steward': 'anton.wray@example.org',
  'one before whom every style of mask is laid': 'philippa.crane@example.org',
};

export const relations: Record<string, string[]> = {
  wells: ['owner.name', 'owner.iban'],
  visits: ['well.address', 'well.owner.name', 'well.owner.tax_number', 'sampler.phone'],
  samples: ['visit.well.owner.phone', 'lab.name'],
  results: ['sample.temperature_c', 'sample.visit.well.latitude'],
  lab_staff: ['lab.accreditation_number'],
};

export const guesses = ["'a'", '50', "'1980-01-01'", 'TRUE', "'letter'"];

/** Two answers from shortly before the place where they part. */
export function apart(one: string, other: string): string {
  let at = 0;
  while (one[at] === other[at]) at++;
  return `… ${one.slice(Math.max(0, at - 120), at + 60)} | ${other.slice(Math.max(0, at - 20), at + 60)}`;
}
