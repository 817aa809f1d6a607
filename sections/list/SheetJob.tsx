import { useEffect, useRef } from 'react';
import { X } from 'lucide-react';
import { isOver, jobProblem, ownJobs, useJob, useStartJob } from '../../web/client/files';
import { JobProgress } from '../../web/jobs/JobProgress';
import { usePlace, type ListState } from '../../web/place/place';
import { Button } from '../../web/ui/Button';

type Asked = Pick<ListState, 'view' | 'columns' | 'search' | 'filter' | 'sort'>;

/** A spreadsheet that is being written: how far it is, a way to stop it, and the file once it is there. */
export default function SheetJob({
  section,
  asked,
  noun,
  onOver,
}: {
  section: string;
  asked: Asked;
  noun: string;
  onOver: () => void;
}) {
  const { base, spot } = usePlace();
  const ways = ownJobs(base);
  const start = useStartJob((of: { page: string; body: Asked }) => ways.begin(of.page, section, of.body));
  const id = start.data?.id ?? null;
  const job = useJob(ways, id).data;
  const begin = start.mutate;
  const begun = useRef(false);
  useEffect(() => {
    if (begun.current) return;
    begun.current = true;
    begin({ page: spot.page, body: asked });
  }, [begin, spot.page, asked]);
  const state = job?.state;
  const taken = useRef(false);
  useEffect(() => {
    if (state !== 'done' || id === null || taken.current) return;
    taken.current = true;
    const link = document.createElement('a');
    link.href = ownJobs(base).file(id);
    link.download = '';
    link.click();
  }, [state, id, base]);
  const problem = start.error ?? jobProblem(job);
  if (!problem && !isOver(job))
    return id === null ? null : (
      <div className="w-72">
        <JobProgress ways={ways} job={id} doing={`Writing ${noun}`} />
      </div>
    );
  const says = problem?.message ?? (state === 'done' ? 'The spreadsheet is with your downloads.' : 'Stopped.');
  return (
    <span className="inline-flex items-center gap-2">
      <span role={problem ? 'alert' : 'status'} className={`text-sm ${problem ? 'text-iron' : 'text-soft'}`}>
        {says}
      </span>
      <Button small weight="quiet" aria-label="Hide" onClick={onOver}>
        <X size={14} aria-hidden />
      </Button>
    </span>
  );
}
