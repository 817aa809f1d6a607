import { analytes } from './analytes';
import { Random } from '../core/proof/random';
import { firstNames, lastNames, parishes, streets, treatments, notes } from './words';

/** Rows of one table, in the order of its columns. */
export interface DemoTable {
  name: string;
  columns: string[];
  rows: (string | number | null)[][];
}

/** The demo ends on this day, whenever it is made. */
const lastDay = Date.UTC(2026, 10, 23);
const day = 86_400_000;
const dateText = (time: number) => new Date(time).toISOString().slice(0, 10);

/**
 * The whole demo from one seed: about 420 owners, 520 wells, 2,600 visits over three years, 5,000 samples, 45,000
 * results. `planned_by` holds the planning sampler's id here; the loader puts the member's id in its place.
 */
export function generateDemo(seed = 20261123): DemoTable[] {
  const random = new Random(seed);
  const samplers = makeSamplers(random);
  const owners = makeOwners(random, samplers);
  const wells = makeWells(random, owners);
  const visits = makeVisits(random, wells, samplers);
  const samples = makeSamples(random, visits);
  return [
    owners,
    ...makeLabs(random),
    samplers,
    makeStaff(),
    wells,
    visits,
    makeAnalytes(),
    samples,
    makeResults(random, samples),
    makeAdvisories(random),
    makeRequests(random),
    makeDoubts(random),
  ];
}

function emailOf(name: string, number: number): string {
  return `${name.toLowerCase().replaceAll(/[^a-z]+/g, '.')}${number}@example.org`;
}

function personName(random: Random): string {
  return `${random.pick(firstNames)} ${random.pick(lastNames)}`;
}

/** An invented account number with the check digits of ISO 13616 (mod 97). */
function iban(random: Random): string {
  const account = `ALDR${random.digits(14)}`;
  const numeric = [...`${account}GB00`].map((sign) => Number.parseInt(sign, 36)).join('');
  return `GB${String(98n - (BigInt(numeric) % 97n)).padStart(2, '0')}${account}`;
}

function makeSamplers(random: Random): DemoTable {
  const rows = Array.from({ length: 14 }, (_, i) => {
    const name = i === 8 ? 'Mara Lindqvist' : personName(random);
    const email = i === 8 ? 'mara.lindqvist@example.org' : emailOf(name, i + 1);
    return [i + 1, name, email, `01632 ${random.digits(6)}`, parishes[i % parishes.length]!, i === 13 ? 0 : 1];
  });
  return { name: 'samplers', columns: ['id', 'name', 'email', 'phone', 'district', 'active'], rows };
}

function makeOwners(random: Random, samplers: DemoTable): DemoTable {
  const rows = Array.from({ length: 420 }, (_, i) => {
    const id = i + 1;
    const parish = id === 17 ? 'Harrow End' : random.pick(parishes);
    const name = id === 17 ? 'Ines Brannock' : personName(random);
    const birth = dateText(Date.UTC(random.int(1934, 2001), random.int(0, 11), random.int(1, 28)));
    return [
      id,
      name,
      id === 17 ? 'ines.brannock@example.org' : emailOf(name, 100 + id),
      `01632 ${random.digits(6)}`,
      random.chance(0.97) ? birth : null,
      `${random.digits(3)}-${random.digits(3)}-${random.digits(3)}`,
      iban(random),
      `${random.int(1, 90)} ${random.pick(streets)}, ${parish}`,
      parish,
      random.pick(['e-mail', 'e-mail', 'phone', 'letter']),
    ];
  });
  // What real rosters hold: no e-mail, one e-mail for a couple, and a sampler with a well of his own.
  rows[76]![2] = null;
  rows[138]![2] = rows[137]![2]!;
  rows[41]![1] = samplers.rows[3]![1]!;
  rows[41]![2] = samplers.rows[3]![2]!;
  return {
    name: 'owners',
    columns: [
      'id',
      'name',
      'email',
      'phone',
      'birth_date',
      'tax_number',
      'iban',
      'postal_address',
      'parish',
      'contact_by',
    ],
    rows,
  };
}

function makeLabs(random: Random): DemoTable[] {
  const labs = ['Fenside Analytical', 'Westmark Water Lab', 'Blue Heron Testing'].map((name, i) => [
    i + 1,
    name,
    `ACC-${random.digits(5)}`,
    dateText(lastDay + random.int(60, 900) * day),
  ]);
  const staff = Array.from({ length: 11 }, (_, i) => {
    const name = personName(random);
    return [i + 1, name, emailOf(name, 700 + i), (i % 3) + 1, i < 7 ? 'chemist' : 'courier', i >= 3 && i < 6 ? 1 : 0];
  });
  return [
    { name: 'labs', columns: ['id', 'name', 'accreditation_number', 'valid_until'], rows: labs },
    { name: 'lab_staff', columns: ['id', 'name', 'email', 'lab_id', 'kind', 'leads'], rows: staff },
  ];
}

/** The programme's own people, by name: some of them can be signed in as. */
function makeStaff(): DemoTable {
  const staff = [
    ['Odile Fennimore', 'desk', null],
    ['Bertram Hask', 'desk', null],
    ['Philippa Crane', 'accounts', null],
    ['Anton Wray', 'parish steward', 'Harrow End'],
    ['Kerstin Vale', 'parish steward', 'Saltby'],
    ['Milo Sandringfield', 'parish steward', 'Reedmere'],
  ] as const;
  return {
    name: 'staff',
    columns: ['id', 'name', 'email', 'duty', 'parish'],
    rows: staff.map(([name, duty, parish], i) => [
      i + 1,
      name,
      `${name.toLowerCase().replace(' ', '.')}@example.org`,
      duty,
      parish,
    ]),
  };
}

function makeWells(random: Random, owners: DemoTable): DemoTable {
  const inesWells: Record<number, string> = { 231: '4 Mill Lane', 232: '4 Mill Lane, barn', 419: 'Reed Cottage' };
  const rows = Array.from({ length: 520 }, (_, i) => {
    const id = i + 1;
    // Each owner has a well; the rest fall anywhere, and a few belong to nobody known.
    let ownerId: number | null = id <= 420 ? id : random.chance(0.9) ? random.int(1, 420) : null;
    if (ownerId === 17) ownerId = 18;
    if (inesWells[id]) ownerId = 17;
    const parish = ownerId === null ? random.pick(parishes) : String(owners.rows[ownerId - 1]![8]);
    const place = parishes.indexOf(parish);
    return [
      id,
      `AF-${String(id).padStart(4, '0')}`,
      ownerId,
      inesWells[id] ?? `${random.int(1, 90)} ${random.pick(streets)}`,
      `AF${place + 1} ${random.int(1, 9)}${random.pick(['AB', 'KD', 'RT', 'WX'])}`,
      parish,
      (52.9 + place * 0.03 + random.next() * 0.02).toFixed(5),
      (0.1 + place * 0.02 + random.next() * 0.02).toFixed(5),
      random.chance(0.95) ? (random.int(60, 950) / 10).toFixed(1) : null,
      random.chance(0.9) ? random.pick(['steel', 'plastic', 'concrete', 'stone']) : null,
      random.chance(0.85) ? dateText(Date.UTC(random.int(1952, 2022), random.int(0, 11), random.int(1, 28))) : null,
      random.pick(['active', 'active', 'active', 'active', 'resting', 'closed']),
      treatments.filter(() => random.chance(0.2)).join(','),
      null,
    ];
  });
  return {
    name: 'wells',
    columns: [
      'id',
      'code',
      'owner_id',
      'address',
      'postcode',
      'parish',
      'latitude',
      'longitude',
      'depth_m',
      'casing',
      'drilled_on',
      'state',
      'treatment',
      'photo',
    ],
    rows,
  };
}

function makeVisits(random: Random, wells: DemoTable, samplers: DemoTable): DemoTable {
  const rows = Array.from({ length: 2600 }, (_, i) => {
    const id = i + 1;
    const well = random.pick(wells.rows);
    const planned = lastDay - 1095 * day + Math.floor((i / 2600) * 1125) * day;
    const near = samplers.rows.filter((sampler) => sampler[4] === well[5]);
    const sampler = Number((random.chance(0.9) ? random.pick(near) : random.pick(samplers.rows))[0]);
    // Most plan their own visits; some are planned by a colleague, some by the desk (no sampler).
    const planner = random.chance(0.75) ? sampler : random.chance(0.5) ? random.int(1, 14) : null;
    const past = planned < lastDay;
    const state = past
      ? random.pick(['reported', 'reported', 'reported', 'reported', 'at lab', 'sampled', 'cancelled'])
      : random.pick(['planned', 'planned', 'asked']);
    const asked = state === 'asked';
    const when =
      `${dateText(planned)} ` +
      `${String(random.int(8, 16)).padStart(2, '0')}:${random.pick(['00', '15', '30', '45'])}:00`;
    return [
      id,
      Number(well[0]),
      asked ? null : sampler,
      asked ? null : planner,
      dateText(Math.min(lastDay, planned - random.int(5, 40) * day)),
      asked ? null : when,
      state,
      random.pick(notes),
      ['sampled', 'at lab', 'reported'].includes(state) ? `S${String(100_000 + id)}` : null,
      asked ? null : (random.int(40, 95) + 0.5 * random.int(0, 1)).toFixed(2),
      state === 'reported' && random.chance(0.85) ? 1 : 0,
      null,
    ];
  });
  return {
    name: 'visits',
    columns: [
      'id',
      'well_id',
      'sampler_id',
      'planned_by',
      'asked_on',
      'planned_for',
      'state',
      'access_note',
      'seal_number',
      'fee',
      'paid',
      'seal_photo',
    ],
    rows,
  };
}

function makeAnalytes(): DemoTable {
  return {
    name: 'analytes',
    columns: ['code', 'name', 'unit', 'limit_low', 'limit_value', 'limit_kind'],
    rows: analytes.map((analyte) => [
      analyte.code,
      analyte.name,
      analyte.unit,
      analyte.low,
      analyte.limit,
      analyte.kind,
    ]),
  };
}

function makeSamples(random: Random, visits: DemoTable): DemoTable {
  const sampled = visits.rows.filter((visit) => visit[8] !== null);
  const rows = Array.from({ length: 5000 }, (_, i) => {
    const visit = i < sampled.length ? sampled[i]! : random.pick(sampled);
    const received = Date.parse(`${String(visit[5]).slice(0, 10)}T00:00:00Z`) + random.int(1, 3) * day;
    const here = visit[6] !== 'sampled';
    const on = dateText(received);
    return [
      i + 1,
      Number(visit[0]),
      `B${String(1_000_000 + i)}`,
      (Number(visit[0]) % 3) + 1,
      here ? `${on} ${String(random.int(7, 18)).padStart(2, '0')}:00:00` : null,
      here ? (random.int(15, 95) / 10).toFixed(1) : null,
      here ? (random.chance(0.96) ? 1 : 0) : null,
      here ? `${on} 06:30:00` : null,
      here ? `BT-${400_000 + i}` : null,
    ];
  });
  return {
    name: 'samples',
    columns: [
      'id',
      'visit_id',
      'bottle_code',
      'lab_id',
      'received_at',
      'temperature_c',
      'accepted',
      'handed_over_at',
      'tracking_number',
    ],
    rows,
  };
}

function makeResults(random: Random, samples: DemoTable): DemoTable {
  const rows: DemoTable['rows'] = [];
  for (const sample of samples.rows) {
    const first = random.int(0, analytes.length - 1);
    for (let i = 0; i < 9; i++) {
      const analyte = analytes[(first + i) % analytes.length]!;
      const level =
        analyte.code === 'PH'
          ? analyte.typical + random.next() - 0.5
          : analyte.code === 'ECOLI'
            ? random.chance(0.04)
              ? random.int(1, 40)
              : 0
            : analyte.typical * (0.2 + random.next() * 2.4);
      const below = level < analyte.limit * 0.005 && analyte.kind === 'chemical';
      rows.push([
        rows.length + 1,
        Number(sample[0]),
        analyte.code,
        below ? null : level.toFixed(3),
        analyte.unit,
        below ? 1 : 0,
        random.chance(0.92) ? 'approved' : rows.length % 3 === 0 ? 'submitted' : 'draft',
        null,
      ]);
    }
  }
  return {
    name: 'results',
    columns: ['id', 'sample_id', 'analyte_code', 'value', 'unit', 'below_detection', 'state', 'remark'],
    rows,
  };
}

function makeAdvisories(random: Random): DemoTable {
  const titles = [
    'Boil water before drinking',
    'Nitrate above the limit after heavy rain',
    'Free retest of shallow wells',
    'Flushing after the flood',
    'Lead in old pipework',
    'Bottle pick-up moves to Thursday',
  ];
  const rows = Array.from({ length: 38 }, (_, i) => [
    i + 1,
    parishes[i % parishes.length]!,
    titles[i % titles.length]!,
    `${titles[i % titles.length]!}. This notice holds for private wells in ${parishes[i % parishes.length]!}. ` +
      'Ask the programme desk if you are in doubt.',
    random.chance(0.7) ? 1 : 0,
    random.chance(0.8) ? dateText(lastDay + random.int(-200, 200) * day) : null,
  ]);
  return { name: 'advisories', columns: ['id', 'parish', 'title', 'text', 'published', 'valid_until'], rows };
}

function makeRequests(random: Random): DemoTable {
  const rows = Array.from({ length: 112 }, (_, i) => {
    const name = personName(random);
    return [
      i + 1,
      name,
      emailOf(name, 3000 + i),
      random.chance(0.6) ? `01632 ${random.digits(6)}` : null,
      random.pick(parishes),
      random.chance(0.7) ? 'Please test our well.' : null,
      random.chance(0.5) ? dateText(lastDay + random.int(3, 60) * day) : null,
    ];
  });
  return { name: 'test_requests', columns: ['id', 'name', 'email', 'phone', 'parish', 'message', 'wished_for'], rows };
}

/** What nobody said who they are: their ids are random, so that they tell no order. */
function makeDoubts(random: Random): DemoTable {
  const said: [string, string][] = [
    ['smell', 'The well behind the old dairy smells of diesel since they moved the tank.'],
    ['something near it', 'Somebody empties a sheep dip into the ditch above the two wells at the ford.'],
    ['colour', 'After rain the water of the house by the chapel is brown, and they let it to guests.'],
    ['taste', 'The well at the camping field tastes of salt.'],
    ['something near it', 'The cover has been off since spring. There are children about.'],
  ];
  const hex = () => Array.from({ length: 32 }, () => random.int(0, 15).toString(16)).join('');
  const rows = said.map(([what, words], i) => [hex(), parishes[(i * 3) % parishes.length]!, what, words]);
  return { name: 'doubts', columns: ['id', 'parish', 'what', 'words'], rows };
}
