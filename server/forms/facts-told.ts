import { factsOf, type Form, type FormFact } from '../../core/definition/form';
import { printPath } from '../../core/definition/path';
import type { Value } from '../../core/table/value';
import type { ColumnInfo } from '../columns/column-info';
import { columnInfos } from '../columns/column-info';
import { inputInfo } from '../columns/input-info';
import { isTold } from '../columns/told-constant';
import { viewSql, type PlacedVisit } from '../gate/gate';
import type { Opened } from './opened';

/** Something that stands in a form to be read. */
export interface FactTold {
  column: ColumnInfo;
  value: Value;
  masked: boolean;
}

/** What facts of a form are told by. */
export const factKey = ({ of, path }: Pick<FormFact, 'of' | 'path'>): string => `${of}:${printPath(path)}`;

/** The facts of a form, as far as whoever fills it in is shown them. */
export async function factsTold(
  visit: PlacedVisit,
  form: Pick<Form, 'steps'>,
  opened: Opened | null,
): Promise<Record<string, FactTold>> {
  const told: Record<string, FactTold> = {};
  const facts = factsOf(form);
  const paths = facts.filter(({ of }) => of === 'record').map(({ path }) => printPath(path));
  const infos = opened && paths.length > 0 ? await columnInfos(opened.visit, opened.table.name, paths) : [];
  for (const fact of facts) {
    const found = fact.of === 'member' ? ofMember(visit, fact.path) : ofRecord(opened, infos, printPath(fact.path));
    if (found)
      told[factKey(fact)] =
        fact.label === undefined ? found : { ...found, column: { ...found.column, label: fact.label } };
  }
  return told;
}

function ofRecord(opened: Opened | null, infos: readonly ColumnInfo[], path: string): FactTold | null {
  const column = infos.find((info) => info.path === path);
  const value = opened?.record.values[path];
  if (!column || value === undefined) return null;
  return { column, value, masked: opened!.record.masked.includes(path) };
}

function ofMember(visit: PlacedVisit, path: string[]): FactTold | null {
  const [table = '', column = ''] = path;
  if (path.length !== 2 || !isTold({ kind: 'member', fact: path }, viewSql(visit))) return null;
  const value = visit.person.rows[table]?.[column];
  const info = inputInfo(visit, table, column);
  return info && value !== undefined ? { column: info, value, masked: false } : null;
}
