import { createMongoAbility, subject, type MongoAbility } from '@casl/ability';
import { contextOf } from '../core/access/person';
import { rightsOf } from '../core/access/rights';
import { rowsCondition, type Rows } from '../core/access/rows';
import { viewOf } from '../core/access/view';
import { prepare, test, type RecordReader } from '../core/condition/prepare';
import { parseCondition } from '../core/condition/parse';
import { emptyDefinition, type PortalDefinition } from '../core/definition/definition';
import { findTable, withManyRelations, type Catalogue } from '../core/table/catalogue';
import type { Row } from '../core/table/value';
import { column } from '../test/wells';
import { quantile, round, type Figure } from './figures';

const catalogue: Catalogue = withManyRelations({
  schema: 'decisions',
  tables: [
    { name: 'samplers', key: ['id'], relations: [], columns: [column('id', 'whole number', { nullable: false })] },
    {
      name: 'visits',
      key: ['id'],
      relations: [],
      columns: [
        column('id', 'whole number', { nullable: false }),
        column('sampler_id', 'whole number'),
        column('planned_by', 'whole number'),
        column('state', 'one choice', { choices: ['asked', 'planned', 'sampled', 'reported'] }),
        column('fee', 'decimal', { precision: 8, scale: 2 }),
        column('access_note', 'text'),
      ],
    },
  ],
});

const definition: PortalDefinition = {
  ...emptyDefinition({ slug: 'bench', name: 'Bench', timeZone: 'UTC', colour: '#1f5f85' }, 'decisions'),
  roles: [
    { id: 'sampler', name: 'Sampler' },
    { id: 'accounts', name: 'Accounts' },
  ],
  access: {
    visits: {
      sampler: {
        see: {
          where: parseCondition('sampler_id = :member.samplers.id OR planned_by = :member.id').condition,
          columns: ['id', 'sampler_id', 'planned_by', 'state', 'access_note'],
        },
        edit: {
          where: parseCondition("sampler_id = :member.samplers.id AND state IN ('asked', 'planned')").condition,
          columns: ['access_note'],
        },
      },
      accounts: { see: { where: parseCondition("state = 'reported'").condition, columns: ['id', 'state', 'fee'] } },
    },
  },
};

/** The same rights as rules of @casl/ability: may the person see, or edit, this column of this record? */
function reference(sampler: number, member: number): MongoAbility {
  const seen = ['id', 'sampler_id', 'planned_by', 'state', 'access_note'];
  return createMongoAbility([
    { action: 'see', subject: 'visits', fields: seen, conditions: { sampler_id: sampler } },
    { action: 'see', subject: 'visits', fields: seen, conditions: { planned_by: member } },
    { action: 'see', subject: 'visits', fields: ['id', 'state', 'fee'], conditions: { state: 'reported' } },
    {
      action: 'edit',
      subject: 'visits',
      fields: ['access_note'],
      conditions: { sampler_id: sampler, state: { $in: ['asked', 'planned'] } },
    },
  ]);
}

/** Decisions in memory: each of 1,000 records, each column, see and edit. */
export function decisions(): Promise<Figure[]> {
  const person = {
    kind: 'member' as const,
    id: 7,
    email: 'm@example.org',
    organisation: null,
    roles: ['sampler', 'accounts'],
    rows: { samplers: { id: 3 } },
  };
  const states = ['asked', 'planned', 'sampled', 'reported'];
  const records = Array.from({ length: 1000 }, (_, i): Row => ({
    id: i,
    sampler_id: i % 5,
    planned_by: i % 11,
    state: states[i % 4]!,
    fee: '60.00',
    access_note: 'gate on the left',
  }));
  const columns = findTable(catalogue, 'visits')!.columns.map((each) => each.name);
  const table = findTable(catalogue, 'visits')!;
  const context = contextOf(person, new Date('2026-11-23T12:00:00Z'), 'UTC');
  const view = viewOf(definition, catalogue, table, person);
  const ready = (rows: Rows | undefined) => {
    const condition = rows === undefined || rows === 'no row' ? undefined : rowsCondition(rows);
    if (condition === undefined) return () => false;
    if (condition === null) return () => true;
    const prepared = prepare(condition, { catalogue, table, member: true });
    return (record: RecordReader) => test(prepared, record, context) === true;
  };
  const rules = view.lenses.map((lens) => ({ seen: ready(lens.rows), edited: ready(lens.edit?.rows) }));
  /** As the gate has it: outcomes first, told of the record, then the one function that decides. */
  const ours = (record: Row) => {
    const reader: RecordReader = { value: ([column]) => record[column!] ?? null, exists: () => false };
    return rightsOf(view, {
      seen: rules.map((rule) => rule.seen(reader)),
      edited: rules.map((rule) => rule.edited(reader)),
    });
  };
  const theirs = reference(3, 7);
  const subjects = records.map((record) => subject('visits', { ...record }));

  const byUs = (): number => {
    let allowed = 0;
    for (const record of records) {
      const rights = ours(record);
      for (const column of columns)
        allowed += Number(rights.cell(column).level === 'shown') + 2 * Number(rights.edits(column));
    }
    return allowed;
  };
  const byReference = (): number => {
    let allowed = 0;
    for (const record of subjects)
      for (const column of columns)
        allowed += Number(theirs.can('see', record, column)) + 2 * Number(theirs.can('edit', record, column));
    return allowed;
  };
  if (byUs() !== byReference()) throw new Error(`the two decide differently: ${byUs()} and ${byReference()}`);
  const times = { ours: [] as number[], reference: [] as number[] };
  for (let i = 0; i < 260; i++) {
    const a = performance.now();
    byUs();
    const b = performance.now();
    byReference();
    const c = performance.now();
    if (i >= 60) {
      times.ours.push(b - a);
      times.reference.push(c - b);
    }
  }
  const [ourTime, theirTime] = [quantile(times.ours, 0.5), quantile(times.reference, 0.5)];
  return Promise.resolve([
    {
      name: `${records.length * columns.length * 2} decisions in memory, times as fast as @casl/ability`,
      ours: round(ourTime),
      reference: round(theirTime),
      unit: 'ms',
      ratio: round(theirTime / ourTime),
      aim: '2 or more',
    },
  ]);
}
