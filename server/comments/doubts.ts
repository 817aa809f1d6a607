import { printPath, readPath } from '../../core/definition/path';
import { findColumn, findTable, type Column } from '../../core/table/catalogue';
import { parseValue, sameValue, type Value } from '../../core/table/value';
import { Problem } from '../../core/refusals/problem';
import { columnInfos, type ColumnInfo } from '../columns/column-info';
import { columnInfo } from '../columns/column-answers';
import { InvalidValues, NotFound, read, type OpenRecord, type PlacedVisit } from '../gate/gate';
import { cell, form, yesNo } from '../http/answers';
import type { Comment } from '../store/comment-models';

/** A value that somebody holds to be wrong, with what it should be where they say so. */
export interface Doubt {
  /** The path of a column of the record. */
  column: string;
  meant?: unknown;
}

/** The same as somebody gets it who is shown the value. */
export interface DoubtTold {
  column: ColumnInfo;
  /** What stood there when it was said. */
  was: Value;
  /** What it should be; null where that was not said. */
  meant: Value;
  now: Value;
  /** Whether it says by now what was meant. */
  isRight: boolean;
  /** Whether this person may put in what was meant. */
  takes: boolean;
}

export const doubtTold = form<DoubtTold>({
  column: columnInfo,
  was: cell,
  meant: cell,
  now: cell,
  isRight: yesNo,
  takes: yesNo,
});

/** So many signs of a value are kept with what is said of it. */
const mostKept = 4000;

const isShown = ({ values, masked }: OpenRecord, path: string): boolean =>
  Object.hasOwn(values, path) && !masked.includes(path);

/** Whether what was meant can be said as a value: what a relation leads to and a file are said in words. */
const takesValue = (visit: PlacedVisit, tableName: string, { name, kind }: Column): boolean =>
  kind !== 'file' && !findTable(visit.catalogue, tableName)!.relations.some(({ column }) => column === name);

/**
 * Reads what is said to be wrong of a record, as it is kept: of a value that the person is shown and can't change
 * themselves.
 */
export async function readDoubt(
  visit: PlacedVisit,
  tableName: string,
  id: string,
  { column: path, meant: given = null }: Doubt,
  text: string,
): Promise<{ aboutColumn: string; meant: string | null; was: string }> {
  const record = await read(visit.source, visit, tableName, id);
  const [name, ...further] = readPath(path) ?? [];
  const column = name !== undefined && further.length === 0 && findColumn(findTable(visit.catalogue, tableName)!, name);
  if (!column || !isShown(record, path)) throw new NotFound('value');
  if (record.editable.includes(path))
    throw new Problem(409, 'own-to-change', 'You can change this value yourself. Change it in the record.');
  const now = record.values[path] ?? null;
  const taken = takesValue(visit, tableName, column)
    ? parseValue({ ...column, nullable: true }, given)
    : ({ ok: true, value: null } as const);
  if (!taken.ok) throw new InvalidValues({ meant: taken.problem });
  const meant = taken.value === '' ? null : taken.value;
  if (JSON.stringify(String(meant)).length > mostKept)
    throw new InvalidValues({ meant: 'This is too long to be said here. Say in words what should change.' });
  if (meant !== null && sameValue(meant, now)) throw new InvalidValues({ meant: 'It says so already.' });
  if (meant === null && text.trim() === '')
    throw new InvalidValues({ text: 'Say what is wrong, or what it should be.' });
  return {
    aboutColumn: column.name,
    meant: meant === null ? null : JSON.stringify(meant),
    was: JSON.stringify(typeof now === 'string' && now.length > mostKept ? `${now.slice(0, mostKept)}…` : now),
  };
}

/**
 * What comments say to be wrong, as far as this person is shown it, by the comments' ids; those of which they may not
 * read at all that it is said are in `kept`.
 */
export async function doubtsOf(
  visit: PlacedVisit,
  tableName: string,
  id: string,
  comments: readonly Comment[],
): Promise<{ told: Map<number, DoubtTold>; kept: Set<number> }> {
  const [told, kept] = [new Map<number, DoubtTold>(), new Set<number>()];
  const doubting = comments.filter(({ aboutColumn }) => aboutColumn !== null);
  if (doubting.length === 0) return { told, kept };
  const record = await read(visit.source, visit, tableName, id);
  const paths = [...new Set(doubting.map(({ aboutColumn }) => printPath([aboutColumn!])))];
  const infos = await columnInfos(visit, tableName, paths);
  for (const comment of doubting) {
    const path = printPath([comment.aboutColumn!]);
    const column = infos.find((each) => each.path === path);
    if (!column || !isShown(record, path)) {
      kept.add(comment.id);
      continue;
    }
    const valueOf = (text: string | null) => (text === null ? null : (JSON.parse(text) as Value));
    const [now, meant] = [record.values[path] ?? null, valueOf(comment.meant)];
    const isRight = meant !== null && sameValue(meant, now);
    const takes = meant !== null && !isRight && record.editable.includes(path);
    told.set(comment.id, { column, was: valueOf(comment.was), meant, now, isRight, takes });
  }
  return { told, kept };
}
