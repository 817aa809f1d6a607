import { Op } from 'sequelize';
import { columnsOfClass, type AskedOf } from '../../core/access/who';
import { whoThen, type PersonThen, type RecordThen, type StateThen, type WhoThen } from '../../core/access/who-then';
import type { DataClass, PortalDefinition } from '../../core/definition/definition';
import { printPath } from '../../core/definition/path';
import { historyOf } from '../../core/definition/history';
import { rolesOf } from '../../core/access/people';
import { findColumn, findRosterTable, findTable, type Catalogue, type Table } from '../../core/table/catalogue';
import { parseValue, type Row, type Value } from '../../core/table/value';
import type { CoreServices } from '../definitions/portal-services';
import { NotFound, read, readPast, type PlacedVisit } from '../gate/gate';
import { hashOfRecord } from '../leaving/keep-history';
import type { Calling } from '../people/calling';
import type { RecordedState } from '../people/record-roles';
import { ServiceKey } from '../store/key-models';
import { KeptChange } from '../store/history-model';
import { AuditEntry, Version } from '../store/models';
import { Member } from '../store/people-models';
import { statesUntil } from '../store/roles-sql';
import { LiveVersion, RolesLook } from '../store/roles-model';

/** What is asked about a moment. */
export interface AskedThen {
  at: Date;
  table?: string;
  column?: string;
  class?: DataClass;
  /** The record of the table. */
  record?: string;
}

/** Who could see it then, and how much of that is known. */
export interface ToldThen {
  /** What was live; null where nothing was. */
  version: { number: number; since: string } | null;
  /** The looks at roles before and after the moment; null where there was none. */
  looks: { before: string | null; after: string | null };
  /** Whether ceilings were set since: they are taken as they are now. */
  ceilingsSince: boolean;
  asked: AskedOf[];
  found: WhoThen[];
}

/** Answers from the versions and the recorded roles who could see a column, a data class, or a cell of a record. */
export async function toldThen(
  services: CoreServices,
  portalId: number,
  asked: AskedThen,
  calling: Calling,
  asBuilder: (definition: PortalDefinition) => Promise<PlacedVisit>,
): Promise<ToldThen> {
  const [live] = await LiveVersion.findAll({
    where: { portalId, at: { [Op.lte]: asked.at } },
    order: [
      ['at', 'DESC'],
      ['id', 'DESC'],
    ],
    limit: 1,
  });
  const before = await lookAt(portalId, { at: { [Op.lte]: asked.at } }, 'DESC');
  const within = before && before.until >= asked.at;
  const after = within ? before : await lookAt(portalId, { at: { [Op.gt]: asked.at } }, 'ASC');
  const ceilingsSince = await AuditEntry.count({
    where: { portalId, what: 'set a ceiling', at: { [Op.gt]: asked.at } },
  });
  const told = {
    version: live ? { number: live.number, since: live.at.toISOString() } : null,
    looks: {
      before: (within ? before.at : before?.until)?.toISOString() ?? null,
      after: (within ? before.until : after?.at)?.toISOString() ?? null,
    },
    ceilingsSince: ceilingsSince > 0,
  };
  const known = live && (await Version.findOne({ where: { portalId, number: live.number } }));
  if (!known) return { ...told, asked: [], found: [] };
  const definition = await services.definitions.version(portalId, known.number);
  const { catalogue } = await services.sources.all(definition);
  const of = asked.class
    ? columnsOfClass(definition, catalogue, asked.class)
    : [{ table: asked.table!, column: asked.column! }];
  const people = await peopleThen(catalogue, portalId, before, after, calling);
  const visitor = { id: null, name: 'Visitor', email: null, organisation: null, rows: {} };
  const open = rolesOf(definition, catalogue, visitor);
  // Visitors have what the version gives them, and nothing of it needs to be recorded.
  const state: StateThen | null = open.length > 0 ? { roles: open, rows: {} } : null;
  if (state) people.push({ id: null, name: 'Visitor', email: null, before: state, after: state });
  people.push(...(await servicesThen(definition, portalId, asked.at)));
  const record =
    asked.record === undefined || asked.table === undefined
      ? null
      : await recordThen(services, portalId, definition, asked.table, asked.record, asked.at, asBuilder);
  return { ...told, asked: of, found: whoThen(definition, catalogue, people, of, record) };
}

const lookAt = (portalId: number, when: object, order: 'ASC' | 'DESC'): Promise<RolesLook | null> =>
  RolesLook.findOne({ where: { portalId, ...when }, order: [['at', order]] });

/** Everybody who was recorded, as they were at the looks before and after. */
async function peopleThen(
  catalogue: Catalogue,
  portalId: number,
  before: RolesLook | null,
  after: RolesLook | null,
  calling: Calling,
): Promise<PersonThen[]> {
  const [was, is] = [await statesAt(portalId, before), await statesAt(portalId, after)];
  const ids = [...new Set([...was.keys(), ...is.keys()])].toSorted((a, b) => a - b);
  const members = await Member.findAll({ where: { portalId, id: ids }, raw: true });
  const known = new Map(members.map((member) => [Number(member.id), member]));
  return ids.flatMap((id): PersonThen[] => {
    const member = known.get(id);
    if (!member) return [];
    return [
      {
        id,
        name: calling.name(member.name),
        email: member.email,
        before: stateOf(catalogue, was.get(id) ?? null),
        after: stateOf(catalogue, is.get(id) ?? null),
      },
    ];
  });
}

/** The programs whose keys worked then, each with the role that it has. */
async function servicesThen({ roles }: PortalDefinition, portalId: number, moment: Date): Promise<PersonThen[]> {
  const keys = await ServiceKey.findAll({
    where: { portalId, madeAt: { [Op.lte]: moment }, [Op.or]: [{ endsAt: null }, { endsAt: { [Op.gt]: moment } }] },
    order: [['id', 'ASC']],
  });
  return keys.flatMap(({ name, role }): PersonThen[] => {
    if (!roles.some((each) => each.id === role && each.for === 'services')) return [];
    const state = { roles: [role], rows: {} };
    return [{ id: null, name: `the key ${name}`, email: null, before: state, after: state }];
  });
}

/** What each member was recorded as at a look; nobody before the first and after the last. */
const statesAt = (portalId: number, look: RolesLook | null): Promise<Map<number, string | null>> =>
  look ? statesUntil(portalId, look.at) : Promise.resolve(new Map());

function stateOf(catalogue: Catalogue, text: string | null): StateThen | null {
  if (text === null) return null;
  const { roles, rows } = JSON.parse(text) as RecordedState;
  const keys = Object.entries(rows).map(([roster, key]): [string, Row] => {
    const table = findRosterTable(catalogue, roster);
    return [
      roster,
      Object.fromEntries(Object.entries(key).map(([column, value]) => [column, keyValue(table, column, value)])),
    ];
  });
  return { roles, rows: Object.fromEntries(keys) };
}

function keyValue(table: Table | undefined, name: string, value: unknown): Value {
  const column = table && findColumn(table, name);
  const parsed = column ? parseValue(column, value) : null;
  return parsed?.ok ? parsed.value : String(value);
}

/**
 * What stood in a record at a moment: by its history, where one was kept from before the moment until now; else it is
 * not known.
 */
async function recordThen(
  services: CoreServices,
  portalId: number,
  definition: PortalDefinition,
  tableName: string,
  id: string,
  moment: Date,
  asBuilder: (definition: PortalDefinition) => Promise<PlacedVisit>,
): Promise<RecordThen> {
  const visit = await asBuilder(definition);
  const table = findTable(visit.catalogue, tableName);
  if (!table || !(await keptSince(services, portalId, table, moment))) return { row: null, moment };
  const where = { portalId, tableName, recordHash: hashOfRecord(id) };
  const next = await KeptChange.findOne({ where: { ...where, at: { [Op.gt]: moment } }, order: [['id', 'ASC']] });
  if (next) return { row: next.was === null ? null : rowOf(table, JSON.parse(next.was) as Row), moment };
  try {
    const { values } = await read(visit.source, visit, tableName, id);
    const kept = table.columns.map(({ name }) => [name, values[printPath([name])]]);
    return { row: rowOf(table, Object.fromEntries(kept) as Row), moment };
  } catch (error) {
    if (error instanceof NotFound) return { row: null, moment };
    throw error;
  }
}

/** What is there still and reads as it did; nothing goes by the rest. */
const rowOf = (table: Table, kept: Row): Row => Object.fromEntries(readPast(table, kept));

/** Whether every version that was live from the moment on keeps the table's history. */
async function keptSince(services: CoreServices, portalId: number, table: Table, moment: Date): Promise<boolean> {
  const lives = await LiveVersion.findAll({
    where: { portalId },
    order: [
      ['at', 'ASC'],
      ['id', 'ASC'],
    ],
  });
  const from = lives.findLastIndex(({ at }) => at <= moment);
  if (from < 0) return false;
  const numbers = [...new Set(lives.slice(from).map(({ number }) => number))];
  const versions = await Promise.all(numbers.map((number) => services.definitions.version(portalId, number)));
  return versions.every((each) => historyOf(each, table) !== null);
}
