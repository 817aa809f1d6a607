import { tellsByDefault } from '../../core/table/telling-default';
import { usableKey, withManyRelations, type Catalogue, type Column, type Table } from '../../core/table/catalogue';
import { relationName } from '../../core/table/relation-name';
import { postgresType } from './postgres-types';

type Ask = (text: string, params: string[]) => Promise<Record<string, unknown>[]>;

/** Reads columns, types, keys and choices of every table and view of a schema from PostgreSQL's own catalogue. */
export async function readPostgresCatalogue(ask: Ask, schema: string): Promise<Catalogue> {
  const columns = await ask(
    `
    WITH RECURSIVE made(id, base, modifier, required, filled) AS (
      SELECT oid, CASE typtype WHEN 'd' THEN typbasetype ELSE oid END, CASE typtype WHEN 'd' THEN typtypmod
      ELSE -1 END, typnotnull, typdefault IS NOT NULL FROM pg_type
      UNION ALL SELECT m.id, t.typbasetype, CASE m.modifier WHEN -1 THEN t.typtypmod ELSE m.modifier END, m.required
      OR t.typnotnull, m.filled OR t.typdefault IS NOT NULL FROM made m JOIN pg_type t ON t.oid = m.base
      WHERE t.typtype = 'd')
    SELECT c.relname t, a.attname c, format_type(ty.oid, CASE m.id WHEN m.base THEN a.atttypmod
      ELSE m.modifier END) native, ty.typname type, ty.typtype kind, ty.typcategory = 'A' is_array, el.typtype
      element_kind, NOT (a.attnotnull OR m.required) nullable, a.atthasdef OR m.filled has_default,
      a.attidentity <> '' counts, pg_get_expr(d.adbin, d.adrelid) filled_by, a.attgenerated <> '' generated,
      a.attidentity <> '' OR a.attgenerated <> '' OR COALESCE(pg_get_expr(d.adbin, d.adrelid), '') LIKE 'nextval(%'
      automatic, co.collisdeterministic deterministic, co.collname collation, col_description(c.oid, a.attnum) comment,
      ARRAY(SELECT e.enumlabel::text FROM pg_enum e WHERE e.enumtypid = CASE WHEN ty.typtype = 'e' THEN ty.oid
      ELSE el.oid END ORDER BY e.enumsortorder) choices
    FROM pg_attribute a JOIN pg_class c ON c.oid = a.attrelid JOIN pg_namespace n ON n.oid = c.relnamespace
      JOIN made m ON m.id = a.atttypid JOIN pg_type ty ON ty.oid = m.base AND ty.typtype <> 'd'
      LEFT JOIN pg_type el ON el.oid = ty.typelem AND ty.typcategory = 'A' LEFT
      JOIN pg_collation co ON co.oid = a.attcollation LEFT JOIN pg_attrdef d ON d.adrelid = a.attrelid
      AND d.adnum = a.attnum
    WHERE n.nspname = $1 AND c.relkind IN ('r', 'p', 'v', 'm', 'f') AND NOT c.relispartition AND a.attnum > 0
      AND NOT a.attisdropped ORDER BY c.relname, a.attnum`,
    [schema],
  );
  const keys = await ask(
    `
    SELECT c.relname t, i.indexrelid::text i, i.indisprimary prim, a.attname c FROM pg_index i
      JOIN pg_class c ON c.oid = i.indrelid JOIN pg_namespace n ON n.oid = c.relnamespace
      CROSS JOIN LATERAL unnest(i.indkey::int[]) WITH ORDINALITY k(attnum, place)
      JOIN pg_attribute a ON a.attrelid = c.oid AND a.attnum = k.attnum
    WHERE n.nspname = $1 AND i.indisunique AND i.indpred IS NULL AND i.indexprs IS NULL
      ORDER BY c.relname, i.indexrelid, k.place`,
    [schema],
  );
  const references = await ask(
    `
    SELECT c.relname t, CASE WHEN r.relnamespace = n.oid THEN r.relname END rt,
      ARRAY(SELECT a.attname::text FROM unnest(k.conkey) WITH ORDINALITY u(attnum, place)
      JOIN pg_attribute a ON a.attrelid = c.oid AND a.attnum = u.attnum ORDER BY u.place) own,
      ARRAY(SELECT a.attname::text FROM unnest(k.confkey) WITH ORDINALITY u(attnum, place)
      JOIN pg_attribute a ON a.attrelid = r.oid AND a.attnum = u.attnum ORDER BY u.place) ends
    FROM pg_constraint k JOIN pg_class c ON c.oid = k.conrelid JOIN pg_namespace n ON n.oid = c.relnamespace
      JOIN pg_class r ON r.oid = k.confrelid
    WHERE k.contype = 'f' AND k.conparentid = 0 AND n.nspname = $1 ORDER BY c.relname, k.oid`,
    [schema],
  );

  const tables = new Map<string, Table>();
  for (const row of columns) {
    const table = tables.get(String(row.t)) ?? { name: String(row.t), columns: [], key: [], relations: [] };
    tables.set(table.name, table);
    table.columns.push(readColumn(row));
  }
  for (const [name, table] of tables) {
    const own = keys.filter((row) => row.t === name);
    table.key = usableKey(
      table.columns,
      own.filter((row) => row.prim === true).map((row) => String(row.c)),
    );
    for (const column of table.columns)
      column.unique = own.some((row) => row.c === column.name && own.filter((each) => each.i === row.i).length === 1);
    for (const row of references) {
      if (row.t !== name) continue;
      const [columns, targetColumns, to] = [
        row.own as string[],
        row.ends as string[],
        typeof row.rt === 'string' ? row.rt : null,
      ];
      (table.foreignKeys ??= []).push({ columns, table: to, targetColumns });
      if (columns.length === 1 && to !== null)
        table.relations.push({
          name: relationName(columns[0]!, table),
          column: columns[0]!,
          table: to,
          targetColumn: targetColumns[0]!,
        });
    }
  }
  return withManyRelations({ database: 'postgresql', schema, tables: [...tables.values()] });
}

function readColumn(row: Record<string, unknown>): Column {
  const nativeType = String(row.native);
  const what =
    row.kind === 'e'
      ? { type: 'one choice' as const }
      : row.element_kind === 'e'
        ? { type: 'several choices' as const }
        : postgresType(String(row.type), row.is_array === true);
  const column: Column = {
    name: String(row.c),
    ...what,
    nativeType,
    nullable: row.nullable === true,
    hasDefault: row.has_default === true || row.automatic === true,
    automatic: row.automatic === true,
    unique: false,
  };
  // What a type puts in by itself can't be looked into here, so it is taken to tell.
  const filledBy = row.generated === true ? '' : (row.filled_by ?? (column.hasDefault ? 'now()' : ''));
  if (row.counts === true || tellsByDefault(String(filledBy))) column.defaultTells = true;
  const { type } = column;
  const [first, second] = (/\((\d+)(?:,(-?\d+))?\)/.exec(nativeType) ?? [])
    .slice(1)
    .map((each) => (each === undefined ? undefined : Number(each)));
  if (type === 'text' && first !== undefined) column.maxLength = first;
  if (type === 'decimal' && first !== undefined) Object.assign(column, { precision: first, scale: second ?? 0 });
  if (type === 'one choice' || type === 'several choices') column.choices = (row.choices as string[]).map(String);
  // Under a deterministic collation texts are the same when their bytes are; their order is asked for as that of C.
  if (row.collation !== null && row.collation !== undefined)
    column.collation = row.deterministic === true ? 'C' : String(row.collation);
  else if (column.choices || type === 'text') column.collation = 'C';
  if (row.comment) column.comment = String(row.comment);
  return column;
}
