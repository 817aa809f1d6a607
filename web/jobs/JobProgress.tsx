import { counted } from '../../core/text/counted';
import { isOver, useCancelJob, useJob, type JobWays } from '../client/files';
import { Button } from '../ui/Button';

/** How far a job is, with a way to stop it. */
export function JobProgress({
  ways,
  job: id,
  doing,
  of = 'row',
  ofMany,
}: {
  ways: JobWays;
  job: number;
  doing: string;
  /** What is counted: one of them, and several. */
  of?: string;
  ofMany?: string;
}) {
  const job = useJob(ways, id).data;
  const cancel = useCancelJob(ways);
  if (!job || isOver(job)) return null;
  const share = job.total ? Math.min(1, job.done / job.total) : null;
  return (
    <div role="status" className="grid max-w-120 gap-1.5">
      <div className="flex items-center gap-3">
        <span className="flex-1">
          {doing} …{' '}
          {job.done > 0 && (
            <span className="text-soft">
              {job.total
                ? `${job.done.toLocaleString()} of ${counted(job.total, of, ofMany)}`
                : counted(job.done, of, ofMany)}
            </span>
          )}
        </span>
        {job.state !== 'saving' && (
          <Button small disabled={cancel.isPending} onClick={() => cancel.mutate(job.id)}>
            Stop it
          </Button>
        )}
      </div>
      <progress className="progress w-full" aria-label={doing} {...(share === null ? {} : { value: share })} max={1} />
    </div>
  );
}
