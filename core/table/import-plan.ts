import type { Notation } from './notation';
import { findColumn, findTable, plainLabel, type Catalogue, type Relation, type Table } from './catalogue';
import type { InferredColumn } from './infer';

/** Where a column of a file goes. */
export interface ImportColumn {
  header: string;
  column: string;
  notation?: Notation;
  /**
   * For a column that is a relation: the column of the other table whose value stands in the file, such as a well's
   * code.
   */
  by?: string;
}

/** How the records of a file go into a table that is there. */
export interface ImportPlan {
  table: string;
  columns: ImportColumn[];
  /** The column that tells whether a record is known; null when every record is new. */
  key: string | null;
  /** What is done with a record that isn't known, and with one that is. */
  unknown: 'add' | 'refuse';
  known: 'change' | 'refuse';
  /** What an empty cell does to a known record: clears the column, or leaves it as it is. */
  empty: 'clear' | 'keep';
}

/**
 * What is kept of the last time: the plan, and how texts were written in each kind of file, by the headings' plain
 * names.
 */
export interface RememberedPlan extends ImportPlan {
  written?: Record<string, Record<string, Notation>>;
}

/** The plan to be kept after a file of a format was brought. */
export function rememberPlan(plan: ImportPlan, format: string, before: RememberedPlan | null): RememberedPlan {
  const now = Object.fromEntries(
    plan.columns.flatMap(({ header, notation }) => (notation ? [[plainName(header), notation]] : [])),
  );
  return { ...plan, written: { ...before?.written, [format]: { ...before?.written?.[format], ...now } } };
}

/** The relation that a column of a table is the end of. */
export function relationOf(table: Table, column: string): Relation | undefined {
  return table.relations.find((relation) => relation.column === column);
}

/**
 * A first plan for a file: what was said the last time, headings matched loosely, else columns by their names and
 * labels; and the notation that was said of files of this format, where these values can be in it.
 */
export function suggestPlan(
  { format, columns }: { format: string; columns: readonly InferredColumn[] },
  catalogue: Catalogue,
  table: Table,
  labels: Record<string, string>,
  before: RememberedPlan | null,
  titleOf: (table: string) => string | undefined,
): ImportPlan {
  const taken = new Set<string>();
  const plan: ImportColumn[] = [];
  for (const column of columns) {
    const remembered = before?.columns.find(
      (each) => plainName(each.header) === plainName(column.header) && findColumn(table, each.column),
    );
    const said = before?.written ? before.written[format]?.[plainName(column.header)] : remembered?.notation;
    const notation = said && column.ask.includes(said) ? said : undefined;
    const target = remembered
      ? findColumn(table, remembered.column)
      : table.columns.find(
          (each) => !taken.has(each.name) && namesOf(table, each.name, labels).includes(plainName(column.header)),
        );
    if (!target || taken.has(target.name) || (target.automatic && !table.key.includes(target.name))) continue;
    taken.add(target.name);
    plan.push({
      header: column.header,
      column: target.name,
      ...(remembered ? { notation, by: remembered.by } : guessed(column, catalogue, table, target.name, titleOf)),
    });
  }
  const unique = (name: string) => findColumn(table, name)!.unique || (table.key.length === 1 && table.key[0] === name);
  const key =
    before && before.key !== null && taken.has(before.key)
      ? before.key
      : before?.key === null && before.columns.length > 0
        ? null
        : (plan.find((each) => unique(each.column))?.column ?? null);
  return {
    table: table.name,
    columns: plan.map(withoutEmpty),
    key,
    unknown: before?.unknown ?? 'add',
    known: before?.known ?? 'change',
    empty: before?.empty ?? 'clear',
  };
}

function guessed(
  column: InferredColumn,
  catalogue: Catalogue,
  table: Table,
  name: string,
  titleOf: (table: string) => string | undefined,
): Pick<ImportColumn, 'by'> {
  const relation = relationOf(table, name);
  const other = relation && findTable(catalogue, relation.table);
  const end = other && findColumn(other, relation.targetColumn);
  // Numbers where the relation holds numbers are keys; texts there are what people call the records by.
  if (!relation || !other || !end || end.type === 'text' || column.type !== 'text') return {};
  const by =
    titleOf(other.name) ??
    other.columns.find((each) => each.type === 'text' && each.unique)?.name ??
    other.columns.find((each) => each.type === 'text')?.name;
  return by === undefined ? {} : { by };
}

function withoutEmpty(column: ImportColumn): ImportColumn {
  return Object.fromEntries(
    Object.entries(column).filter(([, value]) => value !== undefined),
  ) as unknown as ImportColumn;
}

function namesOf(table: Table, column: string, labels: Record<string, string>): string[] {
  const relation = relationOf(table, column);
  const one = table.name.replace(/s$/, '');
  return [
    column,
    labels[column] ?? '',
    plainLabel(column),
    `${table.name} ${column}`,
    `${one} ${column}`,
    ...(relation ? [relation.name] : []),
  ]
    .map(plainName)
    .filter(Boolean);
}

/** `Well code` and `well_code` are the same name. */
function plainName(text: string): string {
  return text
    .normalize('NFKD')
    .replaceAll(/\p{M}/gu, '')
    .toLowerCase()
    .replaceAll(/[^\p{L}\p{N}]+/gu, '');
}
