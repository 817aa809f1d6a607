import { useState } from 'react';
import { canJoin } from '../../../core/definition/sources';
import type { Column, Relation, Table } from '../../../core/table/catalogue';
import { relationName } from '../../../core/table/relation-name';
import { useBench } from '../bench/bench-context';
import { Select } from '../../ui/Select';

/**
 * A relation that neither the database nor its names tell: to any column, also of another source, whose values tell
 * records apart.
 */
export function RelateByHand({
  table,
  column,
  onRelate,
}: {
  table: Table;
  column: Column;
  onRelate: (relation: Relation) => void;
}) {
  const { catalogue, draft } = useBench();
  const [open, setOpen] = useState(false);
  if (table.key.includes(column.name) && table.key.length === 1) return null;
  if (!open)
    return (
      <button
        type="button"
        className="block text-left text-water underline"
        aria-label={`Relate ${column.name} to another table`}
        onClick={() => setOpen(true)}
      >
        relate it…
      </button>
    );
  const ends = catalogue.tables
    .filter((other) => other !== table)
    .map((other) => ({
      other,
      columns: other.columns.filter((end) => canJoin(table, { column: column.name, targetColumn: end.name }, other)),
    }))
    .filter((each) => each.columns.length > 0);
  const relate = (value: string) => {
    const [to, targetColumn] = JSON.parse(value) as [string, string];
    const taken = [...table.relations, ...(draft.tables[table.name]?.relations ?? [])];
    const name = relationName(column.name, { ...table, relations: taken });
    setOpen(false);
    onRelate({ name, column: column.name, table: to, targetColumn });
  };
  return (
    <Select
      className="mt-1"
      aria-label={`${column.name} leads to`}
      value=""
      onPick={(picked) => {
        if (picked) relate(picked);
        else setOpen(false);
      }}
    >
      <option value="">leads to …</option>
      {ends.map(({ other, columns }) => (
        <optgroup key={other.name} label={other.name}>
          {columns.map((end) => (
            <option key={end.name} value={JSON.stringify([other.name, end.name])}>
              {other.name}.{end.name}
            </option>
          ))}
        </optgroup>
      ))}
    </Select>
  );
}
