import type { ColumnInfo, ListAnswer } from '../../web/client/portal';
import { cellText } from '../../web/records/Cell';
import { titleIn } from '../../web/records/RecordCell';

/** What a record is called by the first column of its list. */
export function calledOf(record: ListAnswer['records'][number], first: ColumnInfo): string {
  if (record.masked.includes(first.path)) return 'this record';
  return titleIn(record, first) ?? (cellText(first.type, record.values[first.path], first.identifies) || 'this record');
}
