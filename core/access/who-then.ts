import { prepare, test, type RecordReader } from '../condition/prepare';
import type { ConditionContext } from '../condition/operand-value';
import type { PortalDefinition } from '../definition/definition';
import { findTable, type Catalogue, type Table } from '../table/catalogue';
import type { Row, Value } from '../table/value';
import { moreOpen, type Openness } from './lens';
import { contextOf } from './person';
import { namedInMasks } from './people';
import { hidden, type View } from './view';
import { reachOn, rowsWords, Views, type AskedOf, type Reach } from './who';

/** What was recorded of a member at one moment; null where they were none. */
export interface StateThen {
  roles: readonly string[];
  /** Of each of their rows in rosters the columns of its key: nothing else of it is recorded. */
  rows: Readonly<Record<string, Row>>;
}

/** Somebody as they were recorded before a moment and after it; alike where nothing changed between. */
export interface PersonThen {
  id: number | null;
  name: string;
  email: string | null;
  before: StateThen | null;
  after: StateThen | null;
}

/** What stood in a record at the moment; null where that is not known. */
export interface RecordThen {
  row: Row | null;
  moment: Date;
}

/** What somebody saw of a column in one record. */
type SawThen = 'shown' | 'masked' | 'hidden' | 'not known';

interface CalledThen {
  id: number | null;
  name: string;
}

/** Who could see a column at a moment. */
export interface WhoThen extends AskedOf {
  people: {
    reach: Pick<Reach, 'level' | 'mask' | 'through'>;
    /** In which rows, as a sentence. */
    rows: string;
    /** In the record that was asked about; null where none was. */
    saw: SawThen | null;
    people: CalledThen[];
  }[];
  /** Those whose roles changed between two looks, one of which lets them see it and the other not, or otherwise. */
  unsure: CalledThen[];
}

/**
 * Who could see columns by a definition that was in force, from the roles that were recorded: never by a guess. Those
 * who could not see anything of a column are left out. What conditions ask that was not recorded makes it `not known`
 * whether they saw it in the record.
 */
export function whoThen(
  definition: PortalDefinition,
  catalogue: Catalogue,
  people: readonly PersonThen[],
  asked: readonly AskedOf[],
  record: RecordThen | null = null,
): WhoThen[] {
  const excepted = namedInMasks(definition);
  return asked.flatMap(({ table: name, column }): WhoThen[] => {
    const table = findTable(catalogue, name);
    if (!table?.columns.some((each) => each.name === column)) return [];
    const views = new Views(definition, catalogue, table);
    const found = new Map<string, WhoThen['people'][number]>();
    const unsure: CalledThen[] = [];
    for (const person of people) {
      const called = { id: person.id, name: person.name };
      const [before, after] = [person.before, person.after].map((state) => {
        if (!state) return null;
        const email = person.email !== null && excepted.has(person.email) ? person.email : null;
        const view = views.of(state.roles, email);
        const { level, mask, through } = reachOn(view, column, []);
        if (level === 'hidden') return null;
        const saw = record
          ? sawIn({ definition, catalogue, table, view, column }, { ...person, ...state }, record)
          : null;
        return { reach: { level, mask, through }, rows: rowsWords(view, column), saw };
      });
      if (JSON.stringify(before) !== JSON.stringify(after)) unsure.push(called);
      else if (before) {
        const key = JSON.stringify(before);
        const known = found.get(key) ?? { ...before, people: [] };
        known.people.push(called);
        found.set(key, known);
      }
    }
    return [{ table: name, column, people: [...found.values()], unsure }];
  });
}

/** What a condition asks was not recorded. */
class NotRecorded extends Error {}

interface OfColumn {
  definition: PortalDefinition;
  catalogue: Catalogue;
  table: Table;
  view: View;
  column: string;
}

/** What a person saw of a column in one record as it stood then. */
function sawIn(
  { definition, catalogue, table, view, column }: OfColumn,
  person: StateThen & Pick<PersonThen, 'id' | 'email'>,
  { row, moment }: RecordThen,
): SawThen {
  if (!row) return 'not known';
  const reader = readerOf(row);
  const context = recordedContext(person, moment, definition.portal.timeZone);
  let sure: Openness = hidden;
  let most: Openness = hidden;
  for (const { rows, columns } of view.lenses) {
    const openness = columns.get(column);
    if (rows === 'no row' || !openness) continue;
    const held = rows.map(({ where }) => {
      try {
        return test(prepare(where, { catalogue, table, member: true }), reader, context) === true;
      } catch (error) {
        if (error instanceof NotRecorded) return null;
        throw error;
      }
    });
    if (held.includes(false)) continue;
    if (moreOpen(openness, most) > 0) most = openness;
    if (!held.includes(null) && moreOpen(openness, sure) > 0) sure = openness;
  }
  return moreOpen(most, sure) === 0 ? sure.level : 'not known';
}

/** A record of which its own columns are known and nothing that relations lead to. */
const readerOf = (row: Row): RecordReader => ({
  value: ([column, ...further]) => {
    if (further.length > 0 || !Object.hasOwn(row, column!)) throw new NotRecorded();
    return row[column!]!;
  },
  exists: () => {
    throw new NotRecorded();
  },
});

/** Facts of a member as far as they were recorded; of a roster on which they did not stand each is nothing, as ever. */
function recordedContext(
  { id, email, rows }: StateThen & Pick<PersonThen, 'id' | 'email'>,
  moment: Date,
  timeZone: string,
): ConditionContext {
  const kind = id === null ? ('visitor' as const) : ('member' as const);
  const person = { kind, id, email, organisation: null, roles: [], rows: { ...rows } };
  const known = contextOf(person, moment, timeZone);
  const isRecorded = (roster: string) => Object.hasOwn(rows, roster);
  const facts = new Proxy(known.facts, {
    getOwnPropertyDescriptor: (own, name) => {
      const fact = String(name);
      if (fact === 'organisation') throw new NotRecorded();
      if (!Object.hasOwn(own, fact) && isRecorded(fact.split('.')[0]!)) throw new NotRecorded();
      return Reflect.getOwnPropertyDescriptor(own, fact);
    },
  });
  const along = new Proxy<Record<string, Value>>(
    {},
    {
      getOwnPropertyDescriptor: (_, name) => {
        const [roster] = JSON.parse(String(name)) as [string];
        if (isRecorded(roster)) throw new NotRecorded();
        return undefined;
      },
    },
  );
  // Its own moments are reckoned when they are asked for.
  return Object.create(known, { facts: { value: facts }, along: { value: along } }) as ConditionContext;
}
