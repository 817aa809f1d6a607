import { strayProblem, type Action, type Ask, type StepValues } from '../../../core/definition/action';
import { findColumn, findTable } from '../../../core/table/catalogue';
import { parseValue, type Value } from '../../../core/table/value';
import { BadQuestion, InvalidValues, Refused } from '../view/errors';
import type { TableVisit } from '../view/table-visit';
import { refuseForeignFiles } from './column-files';
import { refuseForeignRelations } from './references';

/** What was given to what an action asks, by the asks' ids; one that was left empty is null. */
export type Asked = ReadonlyMap<string, Value>;

/**
 * Reads what was given to each ask, as its column takes it: what can't be kept is said by the asks' ids. A relation may
 * be to what the person sees alone, and a file one that they sent.
 */
export async function readAsked(at: TableVisit, action: Action, given: Record<string, unknown>): Promise<Asked> {
  const stray = strayProblem(action, given);
  if (stray !== null) throw new BadQuestion(stray);
  const asked = new Map<string, Value>();
  const faults: Record<string, string> = {};
  for (const ask of action.asks) {
    const read = readOne(at, ask, given[ask.id] ?? null);
    if (read.ok) asked.set(ask.id, read.value);
    else faults[ask.id] = read.problem;
  }
  if (Object.keys(faults).length > 0) throw new InvalidValues(faults);
  for (const ask of action.asks) await refuseForeign(at, ask, asked.get(ask.id) ?? null);
  return asked;
}

function readOne(at: TableVisit, ask: Ask, given: unknown): ReturnType<typeof parseValue> {
  const column = findColumn(findTable(at.visit.catalogue, ask.table) ?? at.table, ask.column);
  if (!column) throw new Refused("This can't be done: what it asks for is gone. Its portal's keeper mends it.");
  const parsed = parseValue({ ...column, nullable: true }, given);
  const isEmpty = parsed.ok && (parsed.value === null || parsed.value === '');
  return ask.required && isEmpty ? { ok: false, problem: 'This needs a value.' } : parsed;
}

async function refuseForeign(at: TableVisit, { id, table: name, column }: Ask, value: Value): Promise<void> {
  const { runner, visit, view } = at;
  const table = findTable(visit.catalogue, name)!;
  const values = new Map([[column, value]]);
  try {
    await refuseForeignRelations({ runner, visit, view, table }, values);
    await refuseForeignFiles(visit, table, values);
  } catch (error) {
    if (!(error instanceof InvalidValues)) throw error;
    throw new InvalidValues({ [id]: Object.values(error.fields)[0]! });
  }
}

/**
 * What was asked for one column and is put into another: there as well it may lead to what the person sees alone, and
 * a file must be one that they sent for it.
 */
export async function refuseForeignElsewhere(
  at: TableVisit,
  { asks }: Action,
  values: StepValues,
  put: ReadonlyMap<string, Value>,
): Promise<void> {
  const elsewhere = [...put].filter(([column]) => {
    const value = values[column];
    const ask = value?.kind === 'asked' ? asks.find(({ id }) => id === value.ask) : undefined;
    return ask !== undefined && !(ask.table === at.table.name && ask.column === column);
  });
  if (elsewhere.length === 0) return;
  await refuseForeignRelations(at, new Map(elsewhere));
  await refuseForeignFiles(at.visit, at.table, new Map(elsewhere));
}
