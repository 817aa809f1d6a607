import { sizeText } from '../../records/size-text';
import { counted } from '../../../core/text/counted';
import { useState } from 'react';
import { Download } from 'lucide-react';
import { allRecords, ofAllRecords } from '../../client/bench';
import { benchFiles, fileAddress, jobProblem, useJob, useStartJob } from '../../client/files';
import { exportAddress, type ExportFormat, type GridQuestion } from '../../client/grid';
import { Button, buttonLook } from '../../ui/Button';
import { Notice } from '../../ui/Notice';
import { JobProgress } from '../../jobs/JobProgress';

/**
 * Takes records out: text at once, as it is read; a spreadsheet, or what is large, as a job whose file is kept for a
 * day.
 */
export function ExportAction({
  slug,
  table,
  question,
  format,
  guard,
}: {
  slug: string;
  table: string;
  question: GridQuestion;
  format: ExportFormat | 'xlsx';
  guard: boolean;
}) {
  const [job, setJob] = useState<number | null>(null);
  const start = useStartJob((body: GridQuestion & { format: ExportFormat | 'xlsx'; guard: boolean }) =>
    ofAllRecords(slug)('POST /exports/:table', { params: { table }, body }),
  );
  const state = useJob(benchFiles(slug), job).data;
  const problem = start.error ?? jobProblem(state);
  const made =
    state?.state === 'done' ? (state.result as { file: string; name: string; rows: number; size: number }) : null;
  const begin = () => start.mutate({ ...question, format, guard }, { onSuccess: (begun) => setJob(begun.id) });
  return (
    <div className="grid gap-2">
      {problem && <Notice kind="fault">{problem.message}</Notice>}
      {job !== null && <JobProgress ways={benchFiles(slug)} job={job} doing={`Writing ${table}`} />}
      {made && (
        <a className={buttonLook('main')} href={fileAddress(slug, made.file)} download={made.name}>
          <Download size={15} aria-hidden />
          {made.name}, {counted(made.rows, 'row')}, {sizeText(made.size)}
        </a>
      )}
      {!made && format !== 'xlsx' && (
        <a
          className={buttonLook('main')}
          href={exportAddress(allRecords(slug), table, question, format, guard)}
          download={`${table}.${format}`}
        >
          Download {table}.{format}
        </a>
      )}
      {!made && (
        <Button
          weight={format === 'xlsx' ? 'main' : 'plain'}
          disabled={start.isPending || (job !== null && state?.state !== 'failed')}
          onClick={begin}
        >
          {format === 'xlsx' ? `Write ${table}.xlsx` : 'Write it in the background'}
        </Button>
      )}
    </div>
  );
}
