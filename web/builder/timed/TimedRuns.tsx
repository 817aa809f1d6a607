import { dayText } from '../../records/member-words';
import { fileAddress } from '../../client/files';
import { useTimedRuns, type TimedRun } from '../../client/timed';
import { DataTable } from '../../ui/DataTable';
import { useBench } from '../bench/bench-context';

const stateWords: Record<TimedRun['state'], string> = {
  running: 'Going on',
  done: 'Done',
  held: 'Held',
  failed: 'Given up',
  unsure: 'Unsure',
};

/** What was done on the last days at its time; nothing where it was never done. */
export function TimedRuns({ kind, subject }: { kind: 'action' | 'brought'; subject: string }) {
  const { slug } = useBench();
  const { data } = useTimedRuns(slug, kind, subject);
  if (!data || data.runs.length === 0) return null;
  return (
    <DataTable label="On the last days" head={['Day', 'State', 'What came of it']}>
      {data.runs.map((run) => (
        <tr key={run.day} className="border-b border-line align-top">
          <td className="py-1.5 pr-3 whitespace-nowrap">{dayText(`${run.day}T12:00:00`)}</td>
          <td className="py-1.5 pr-3">{stateWords[run.state]}</td>
          <td className="py-1.5 pr-3">
            {cameOf(run)}
            {run.brought?.refusedFile && (
              <>
                {' '}
                <a href={fileAddress(slug, run.brought.refusedFile)}>The refused, as a file</a>
              </>
            )}
            {run.problem && <div className="text-sm text-iron">{run.problem}</div>}
          </td>
        </tr>
      ))}
    </DataTable>
  );
}

function cameOf({ brought, done, refused, state }: TimedRun): string {
  const number = (count: number) => count.toLocaleString();
  const not = refused > 0 ? [`${number(refused)} refused`] : [];
  if (!brought) return [`${number(done)} done`, ...not].join(', ');
  const would = state === 'held' ? 'would have been: ' : '';
  const { added, changed, same } = brought;
  return (
    would + [`${number(added)} added`, `${number(changed)} changed`, `${number(same)} the same`, ...not].join(', ')
  );
}
