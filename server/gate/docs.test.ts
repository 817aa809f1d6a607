import { readDefinition } from '../../sections/definition';
import { readFileSync } from 'node:fs';
import { afterAll, beforeAll, describe, expect, inject, it } from 'vitest';
import type { Connection } from 'mariadb';
import { demoDefinition } from '../../demo/definition';
import { loadTables } from '../../demo/load';
import { freshSchema } from '../../test/tables';
import { column } from '../../test/wells';
import type { Person } from '../../core/access/person';
import { implies, isAlways, isNever } from '../../core/condition/analyse';
import { readCondition } from '../../core/condition/check';
import { parseCondition } from '../../core/condition/parse';
import { printCondition } from '../../core/condition/print';
import type { PortalDefinition } from '../../core/definition/definition';
import { applyMask, maskTakes, type Mask } from '../../core/mask/mask';
import type { Catalogue, ColumnType } from '../../core/table/catalogue';
import { MariadbSource } from '../sources/mariadb';
import { create } from './write/create';
import { edit } from './write/edit';
import { count } from './read/list';
import { read } from './read/read';
import type { Visit } from './view/visit';

/** Runs every example of docs/access.md. */
const text = readFileSync(new URL('../../docs/access.md', import.meta.url), 'utf8');

const blocks = [...text.matchAll(/```(\w+) ?(\w*)\n([\s\S]*?)```/g)].map((match) => ({
  kind: match[1]!,
  table: match[2]!,
  lines: match[3]!.trimEnd().split('\n'),
}));

const of = (kind: string) => blocks.filter((block) => block.kind === kind);

let plain: Connection;
let source: MariadbSource;
let catalogue: Catalogue;

beforeAll(async () => {
  plain = await freshSchema(inject('database'), 'docs');
  await loadTables(inject('database'), 'docs');
  source = new MariadbSource(inject('database'), 'docs');
  catalogue = await source.catalogue();
});

afterAll(async () => {
  await source?.close();
  await plain?.end();
});

const scopeOf = (table: string) => ({
  catalogue,
  table: catalogue.tables.find((each) => each.name === table)!,
  member: true,
});

describe('the examples of docs/access.md', () => {
  it('are read as conditions and written again as they stand', () => {
    const lines = of('condition').flatMap((block) => block.lines.map((line) => [block.table, line] as const));
    expect(lines.length).toBeGreaterThan(10);
    for (const [table, line] of lines) expect(printCondition(readCondition(line, scopeOf(table)))).toBe(line);
  });

  it('are wrong as is said', () => {
    for (const { table, lines } of of('wrong')) {
      for (let i = 0; i < lines.length; i += 2)
        expect(() => readCondition(lines[i]!, scopeOf(table))).toThrow(lines[i + 1]!.replace('→ ', ''));
    }
  });

  it('are certain as is said', () => {
    for (const { table, lines } of of('certain')) {
      for (const line of lines) {
        const [one, other] = line.split(/ [→⇒] /);
        const scope = scopeOf(table);
        const condition = readCondition(one!, scope);
        expect([
          line,
          other === 'never'
            ? isNever(condition, scope)
            : other === 'always'
              ? isAlways(condition, scope)
              : implies(condition, readCondition(other!, scope), scope),
        ]).toEqual([line, true]);
      }
    }
  });

  it('are masked as the table shows', () => {
    const rows = [...text.matchAll(/^\| `(\{.*?\})` \|.*\| `([^`]*)` \| `([^`]*)` \|$/gm)];
    expect(rows.length).toBe(15);
    for (const [, mask, value, shown] of rows) {
      const read = JSON.parse(mask!) as Mask;
      const type = (['text', 'date', 'decimal'] as ColumnType[]).find((each) => maskTakes(read, column('x', each)))!;
      expect([mask, applyMask(read, value!, column('x', type), { today: '2026-11-23', standIn: null })]).toEqual([
        mask,
        shown,
      ]);
    }
  });

  it('come out as is said', async () => {
    const visitOf = (who: string): Visit => ({
      definition: portal(),
      catalogue,
      person: people[who]!,
      moment: new Date('2026-11-23T12:00:00Z'),
    });
    const lines = of('outcome').flatMap((block) => block.lines);
    expect(lines.length).toBeGreaterThan(10);
    for (const line of lines) expect(await outcomeOf(line, visitOf)).toBe(line);
  });
});

/** The portal of the page: conditions are written there in their text form. */
function portal(): PortalDefinition {
  const fromText = (value: unknown, key = ''): unknown => {
    if ((key === 'where' || key === 'keepIn') && typeof value === 'string')
      return value === 'every row' || value === 'as seen' ? value : parseCondition(value).condition;
    if (key === 'value') {
      const { condition } = parseCondition(`x = ${String(value)}`);
      return condition.kind === 'compare' ? condition.right : null;
    }
    if (Array.isArray(value)) return value.map((each) => fromText(each));
    return typeof value === 'object' && value !== null
      ? Object.fromEntries(Object.entries(value).map(([name, each]) => [name, fromText(each, name)]))
      : value;
  };
  const { roles, ...rest } = fromText(JSON.parse(of('portal')[0]!.lines.join('\n'))) as {
    roles: string[];
  } & Partial<PortalDefinition>;
  const demo = demoDefinition('docs');
  return readDefinition(
    JSON.parse(JSON.stringify({ ...demo, pages: [], ...rest, roles: roles.map((id) => ({ id, name: id })) })),
  );
}

const member = (id: number, roles: string[], rows: Person['rows']): Person => ({
  kind: 'member',
  id,
  email: `m${id}@example.org`,
  organisation: null,
  roles,
  rows,
});

const people: Record<string, Person> = {
  'owner 17': member(1, ['well_owner'], { owners: { id: 17 } }),
  'sampler 9': member(2, ['sampler'], { samplers: { id: 9 } }),
  desk: member(4, ['desk'], {}),
};

const words: Record<string, string> = { NotFound: 'not found', Refused: 'refused', InvalidValues: 'invalid' };

/** The line again with the outcome that it really has. Writes are tried and taken back. */
async function outcomeOf(line: string, visitOf: (who: string) => Visit): Promise<string> {
  const [who, rest] = Object.keys(people)
    .filter((name) => line.startsWith(`${name} `))
    .map((name) => [name, line.slice(name.length + 1)] as const)[0]!;
  const visit = visitOf(who);
  const fault = (error: Error) => words[error.constructor.name] ?? error.message;
  const sees = /^sees \d+ of (\w+)$/.exec(rest);
  if (sees) return `${who} sees ${await count(source, visit, sees[1]!)} of ${sees[1]}`;
  const [asked] = rest.split(': ') as [string];
  const reads = /^reads (\w+) (\d+)(?: (\w+))?$/.exec(asked);
  if (reads) {
    const outcome = await read(source, visit, reads[1]!, reads[2]!).then(
      (record) => (record.masked.includes(reads[3]!) ? 'masked' : reads[3]! in record.values ? 'shown' : 'hidden'),
      fault,
    );
    return `${who} ${asked}: ${outcome}`;
  }
  const writes = /^(edits (\w+) (\d+)|creates (\w+)) (.*)$/.exec(asked)!;
  const values = Object.fromEntries(writes[5]!.split(', ').map((pair) => pair.split(' = ') as [string, string]));
  const outcome = await (
    writes[2]
      ? editing(visit, writes[2], writes[3]!, values)
      : create(source, visit, writes[4]!, values, { trial: true })
  ).then(() => 'done', fault);
  return `${who} ${asked}: ${outcome}`;
}

async function editing(visit: Visit, table: string, id: string, values: Record<string, string>): Promise<unknown> {
  const record = await read(source, visit, table, id);
  return edit(
    source,
    visit,
    table,
    id,
    Object.fromEntries(Object.entries(values).map(([name, to]) => [name, { from: record.values[name], to }])),
    { trial: true },
  );
}
