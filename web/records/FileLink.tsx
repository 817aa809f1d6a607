import { Paperclip } from 'lucide-react';
import { recordAddress } from '../client/portal';

/** The address of a file that a record holds. */
export function fileAddressOf(base: string, table: string, id: string, column: string): string {
  return recordAddress(base)('GET /records/:table/:id/files/:column', { params: { table, id, column } });
}

/** A file in a cell: opened or saved with one press. */
export function FileLink({
  base,
  table,
  id,
  column,
  label,
}: {
  base: string;
  table: string;
  id: string;
  column: string;
  label: string;
}) {
  return (
    <a
      href={fileAddressOf(base, table, id, column)}
      target="_blank"
      rel="noreferrer"
      aria-label={`Open ${label}`}
      className="inline-flex items-center gap-1"
    >
      <Paperclip size={14} aria-hidden /> file
    </a>
  );
}
