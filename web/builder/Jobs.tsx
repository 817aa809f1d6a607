import { useState } from 'react';
import { Loader } from 'lucide-react';
import { counted } from '../../core/text/counted';
import { benchFiles, fileAddress, jobProblem, useEndedJobs, useRunningJobs, type JobState } from '../client/files';
import { Button } from '../ui/Button';
import { Popover } from '../ui/Popover';
import { JobProgress } from '../jobs/JobProgress';

/** Each kind of long work in words, and what it counts where that isn't rows. */
const kinds: Record<string, { doing: string; of?: string; ofMany?: string }> = {
  'read a file': { doing: 'Reading a file' },
  'table from a file': { doing: 'Making a table of a file' },
  'look at an import': { doing: 'Looking what a file would change' },
  import: { doing: 'Bringing a file' },
  'bring from an address': { doing: 'Bringing from an address' },
  export: { doing: 'Writing a file' },
  'do an action': { doing: 'Doing an action', of: 'record' },
  'refresh the members': { doing: 'Refreshing the members' },
  'send invitations': { doing: 'Writing to members', of: 'mail' },
  'change report': { doing: 'Comparing what publishing changes', of: 'table' },
  'proof run': { doing: 'Proving', of: 'question' },
  rehearsal: { doing: 'Rehearsing', of: 'person', ofMany: 'people' },
};
const wordsOf = ({ kind }: JobState) => kinds[kind] ?? { doing: 'Long work' };

/**
 * Long work of the portal in one place, wherever on the bench one is: what runs, with a way to stop it, and how what
 * has run came out.
 */
export function Jobs({ slug }: { slug: string }) {
  const listed = useRunningJobs(slug).data;
  const { ended, awaited } = useEndedJobs(slug, listed);
  // Until it is known how one came out it stays where it was, and so does what is open around it.
  const running = [...(listed ?? []), ...awaited];
  const [read, setRead] = useState<readonly number[]>([]);
  const news = ended.filter((job) => !read.includes(job.id));
  const isRunning = running.length > 0;
  if (!isRunning && ended.length === 0) return null;
  const label = isRunning
    ? `${counted(running.length, 'job')} running`
    : news.length > 0
      ? `${counted(news.length, 'job')} over`
      : counted(ended.length, 'job');
  return (
    <>
      <span role="status" className="sr-only">
        {label}
      </span>
      <Popover
        align="end"
        label="Long work"
        className="grid w-96 gap-3"
        onOpenChange={(open) => {
          if (!open) setRead(ended.map((job) => job.id));
        }}
        trigger={
          <Button small className={news.length > 0 ? 'bg-sunk' : ''}>
            {isRunning && <Loader size={14} aria-hidden className="motion-safe:animate-spin" />}
            {label}
          </Button>
        }
      >
        {running.map((job) => (
          <JobProgress key={job.id} ways={benchFiles(slug)} job={job.id} {...wordsOf(job)} />
        ))}
        {ended.length > 0 && (
          <ul className="grid gap-1 text-sm">
            {ended.map((job) => (
              <li key={job.id} className={job.state === 'failed' ? 'text-iron' : ''}>
                {outcome(job)} <Made slug={slug} job={job} />
              </li>
            ))}
          </ul>
        )}
      </Popover>
    </>
  );
}

/** The file that an export made. */
function Made({ slug, job }: { slug: string; job: JobState }) {
  const made =
    job.kind === 'export' && job.state === 'done' ? (job.result as { file: string; name: string } | null) : null;
  return (
    made && (
      <a href={fileAddress(slug, made.file)} download={made.name}>
        {made.name}
      </a>
    )
  );
}

function outcome(job: JobState): string {
  const { doing } = wordsOf(job);
  if (job.state === 'cancelled') return `${doing}: stopped. Nothing of it stays.`;
  if (job.state === 'failed') return `${doing}: ${jobProblem(job)!.message}`;
  return `${doing}: done.`;
}
