import type { LogLine } from '../client/owners';
import { DataTable } from '../ui/DataTable';

/** Lines of a log, the newest first. */
export function LogTable({ entries }: { entries: readonly LogLine[] }) {
  return (
    <DataTable label="Audit log" head={['When', 'Who', 'What', 'About']}>
      {entries.map((entry, i) => (
        <tr key={i}>
          <td className="text-sm whitespace-nowrap text-soft">
            {new Date(entry.at).toLocaleString(undefined, { dateStyle: 'medium', timeStyle: 'medium' })}
          </td>
          <td>{entry.who}</td>
          <td className="whitespace-nowrap">{entry.what}</td>
          <td className="break-words">{entry.about}</td>
        </tr>
      ))}
    </DataTable>
  );
}
