import { plainText } from '../../core/table/plain-text';
import { titleText } from '../../core/table/title';
import type { ColumnInfo, ViewRecord } from '../client/portal';
import { Cell } from './Cell';
import { FileLink } from './FileLink';
import { RecordLink } from './record-links';

type SeenRecord = Pick<ViewRecord, 'id' | 'values' | 'masked'>;

/** What the record is called that a relation leads to, where the person sees it whole. */
export function titleIn(record: Pick<SeenRecord, 'values' | 'masked'>, column: Pick<ColumnInfo, 'relation'>) {
  const seen = titlePaths(column).filter((path) => !record.masked.includes(path));
  return titleText(seen.map((path) => record.values[path])) || null;
}

const titlePaths = ({ relation }: Pick<ColumnInfo, 'relation'>): string[] =>
  [relation?.title ?? [], relation?.further ?? []].flat();

/** One cell of a record: a relation by its title, a file as a link to it, and any other value as its type has it. */
export function RecordCell({
  base,
  table,
  column,
  record,
  plain = false,
}: {
  base: string;
  table: string;
  column: ColumnInfo;
  record: SeenRecord;
  /** Within a link of its own: no other inside. */
  plain?: boolean;
}) {
  const value = record.values[column.path];
  const masked = record.masked.includes(column.path);
  const isThere = value !== null && value !== undefined && value !== '';
  if (column.kind === 'file' && record.id !== null && isThere && !masked && !plain && !column.path.includes('.'))
    return <FileLink base={base} table={table} id={record.id} column={column.path} label={column.label} />;
  const { relation } = column;
  if (relation && isThere && !masked) {
    const title = titleIn(record, column);
    const called =
      title === null ? <Cell type={column.type} notes={column} value={value} masked={false} plain /> : <>{title}</>;
    return plain || !relation.opens ? (
      called
    ) : (
      <RecordLink table={relation.table} id={encodeURIComponent(plainText(value))}>
        {called}
      </RecordLink>
    );
  }
  return <Cell type={column.type} notes={column} value={value} masked={masked} plain={plain} />;
}
