import type { ViewRecord, ColumnInfo } from '../client/portal';
import { Cell } from '../ui/Cell';
import { plainText } from './block';
import { FileLink } from './FileCell';
import type { Unkept } from './use-writes';

/** What the record is called that a relation leads to, where the person sees it whole. */
export function titleIn(record: ViewRecord, title: string | undefined): string | null {
  const value = title === undefined || record.masked.includes(title) ? null : record.values[title];
  return value === null || value === undefined || value === '' ? null : String(value);
}

export function CellOrUnkept({
  base,
  table,
  column,
  record,
  kept,
  title,
}: {
  base: string;
  table: string;
  column: ColumnInfo;
  record: ViewRecord;
  kept: Unkept | undefined;
  title: string | null;
}) {
  if (kept)
    return (
      <span className={kept.reason ? 'font-medium text-iron' : 'text-soft'}>
        {kept.typed === '' ? '–' : kept.typed}
      </span>
    );
  if (
    column.kind === 'file' &&
    record.id !== null &&
    record.values[column.path] &&
    !record.masked.includes(column.path) &&
    !column.path.includes('.')
  )
    return <FileLink base={base} table={table} id={record.id} column={column.path} label={column.label} />;
  if (title !== null && !record.masked.includes(column.path))
    return <span title={`${column.label}: ${plainText(record.values[column.path])}`}>{title}</span>;
  return (
    <Cell
      type={column.type}
      notes={column}
      value={record.values[column.path]}
      masked={record.masked.includes(column.path)}
    />
  );
}
