import { builderPerson } from '../../../core/access/person';
import { emptyDefinition } from '../../../core/definition/definition';
import { sql, name, joined, comma, raw } from '../../../core/sql/sql';
import { type Catalogue, findColumn, type Column } from '../../../core/table/catalogue';
import { type DrawnColumn, drawnColumn } from '../../../core/table/drawn';
import { type Value, parseValue } from '../../../core/table/value';
import type { Source } from '../../sources/source';
import { NotFound, BadQuestion, InvalidValues } from '../view/errors';
import { exportRows } from '../read/export';
import { goneName, refuseMadeOf } from './set-aside';
import { tableOf, typeSql, plain, described } from './shape';

/** What would be lost if a column got another type. */
export interface TypeChange {
  kept: number;
  lost: number;
  samples: { id: string; value: string; reason: string }[];
}

/**
 * Gives a column another type: first, without `apply`, it only tells which values don't fit; those become empty. The
 * column as it was is set aside for a day.
 */
export async function changeType(
  source: Source,
  catalogue: Catalogue,
  tableName: string,
  columnName: string,
  drawn: DrawnColumn,
  apply: boolean,
): Promise<TypeChange> {
  const table = tableOf(catalogue, tableName);
  const column = findColumn(table, columnName);
  if (!column || drawn.name !== columnName) throw new NotFound('column');
  if (
    table.key.length === 0 ||
    table.key.includes(columnName) ||
    drawn.type === 'relation' ||
    catalogue.tables.some((other) =>
      other.relations.some(
        (relation) =>
          (other === table && relation.column === columnName) ||
          (relation.table === tableName && relation.targetColumn === columnName),
      ),
    )
  ) {
    throw new BadQuestion(
      `${columnName} is a key or a relation. Its type is that of the other end and can't be changed alone.`,
    );
  }
  if (table.ceiling?.columns?.[columnName] !== undefined || table.ceiling?.export === false)
    throw new BadQuestion(`${columnName} is under a ceiling, so its values can't be looked at. Lift that first.`);
  await refuseMadeOf(source, tableName, columnName);
  const target = drawnColumn(drawn);
  const visit = {
    definition: emptyDefinition({ slug: 'shape', name: 'Shape', timeZone: 'UTC', colour: '#000000' }, catalogue.schema),
    catalogue,
    person: builderPerson,
    moment: new Date(),
  };
  const change: TypeChange = { kept: 0, lost: 0, samples: [] };
  const pages = async function* (): AsyncGenerator<{ key: Value[]; value: Value }[]> {
    Object.assign(change, { kept: 0, lost: 0, samples: [] });
    for await (const { records } of exportRows(source, visit, tableName, {
      columns: [...table.key, columnName].map((each) => [each]),
      sort: [],
      where: [],
      search: '',
    })) {
      yield records.map(({ cells }) => {
        const was = cells.at(-1) ?? null;
        const key = cells.slice(0, -1) as Value[];
        const parsed =
          was === null
            ? { ok: true as const, value: null }
            : parseValue({ ...target, nullable: true }, textual(was, target));
        if (parsed.ok) {
          change.kept++;
          return { key, value: parsed.value };
        }
        change.lost++;
        if (change.samples.length < 20)
          change.samples.push({
            id: key.map(String).join(','),
            value: textual(was, target).slice(0, 200),
            reason: parsed.problem,
          });
        return { key, value: null };
      });
    }
  };
  if (!apply) {
    for await (const page of pages()) void page;
    return change;
  }
  const making = `_porch_making_${Date.now().toString(36)}`;
  const gone = goneName(columnName);
  await source.write(sql`ALTER TABLE ${name(tableName)} ADD ${name(making)} ${typeSql(catalogue, drawn)} NULL`);
  try {
    await source.transaction(async (runner) => {
      // What the database sets by itself at each change stays: nobody has changed these records.
      const kept = table.columns
        .filter((each) => each.setOnChange)
        .map((each) => `, ${name(each.name).text} = ${name(each.name).text}`)
        .join('');
      const statement =
        `UPDATE ${name(tableName).text} SET ${name(making).text} = ?${kept} WHERE ` +
        `${table.key.map((each) => `${name(each).text} = ?`).join(' AND ')}`;
      for await (const page of pages()) {
        const rows = page
          .filter(({ value }) => value !== null)
          .map(({ key, value }) => [
            typeof value === 'boolean' ? Number(value) : Array.isArray(value) ? value.join(',') : value,
            ...(key as (string | number | bigint | null)[]),
          ]);
        if (rows.length > 0) await runner.many(raw(statement), rows);
      }
    });
    if (drawn.required && change.lost > 0)
      throw new InvalidValues({
        required: "Values that don't fit would be empty, so it can't be required. Mend them first, or let it be empty.",
      });
    const place = table.columns.findIndex((each) => each.name === columnName);
    const after = place === 0 ? sql` FIRST` : sql` AFTER ${name(table.columns[place - 1]!.name)}`;
    // One statement, so that there is no moment with half of it: the old one takes its place aside, where it needs no
    // value, as the new one takes its name.
    await source.write(
      sql`ALTER TABLE ${name(tableName)} CHANGE ${name(columnName)} ${name(gone)} ${plain(column.nativeType)} NULL,
        CHANGE ${name(making)} ${joined(described(catalogue, drawn), comma)}${after}`,
    );
  } catch (error) {
    await source.write(sql`ALTER TABLE ${name(tableName)} DROP COLUMN IF EXISTS ${name(making)}`);
    throw error;
  } finally {
    await source.catalogue(true);
  }
  return change;
}

/** A value as a person would type it for another type. */
function textual(value: Value, target: Column): string {
  if (Array.isArray(value)) return value.join(',');
  if (typeof value === 'boolean')
    return target.type === 'text' || target.type === 'long text' ? (value ? 'yes' : 'no') : value ? '1' : '0';
  return String(value);
}
