import { counted } from '../../core/text/counted';
import { useState } from 'react';
import { TriangleAlert } from 'lucide-react';
import { jobProblem, useJob, useStartJob, type FileFacts, type FileWays, type ReadFile } from '../client/files';
import type { InferredColumn } from '../../core/table/infer';
import { problemText } from '../client/http';
import { Field } from '../ui/Field';
import { Notice } from '../ui/Notice';
import { JobProgress } from '../jobs/JobProgress';
import { Select } from '../ui/Select';

/** Choosing a file, which is sent and read through; gives what was found in it. */
export function useFileChoice(ways: FileWays) {
  const [job, setJob] = useState<number | null>(null);
  const send = useStartJob((file: File) => ways.send(file));
  const start = useStartJob((order: { file: string; sheet: string }) => ways.readAgain(order.file, order.sheet));
  const state = useJob(ways, job).data;
  const read = state?.state === 'done' ? (state.result as ReadFile) : null;
  const choose = (file: File | undefined) => {
    if (!file) return;
    setJob(null);
    send.mutate(file, { onSuccess: (made) => setJob(made.id) });
  };
  const chooseSheet = (sheet: string) =>
    start.mutate({ file: read!.file, sheet }, { onSuccess: (made) => setJob(made.id) });
  return {
    job,
    read,
    choose,
    chooseSheet,
    /** Goes on with a job that reads a file which came otherwise. */
    goOn: setJob,
    sending: send.isPending,
    problem: send.error ?? start.error ?? jobProblem(state),
  };
}

export function FileChooser({ ways, choice }: { ways: FileWays; choice: ReturnType<typeof useFileChoice> }) {
  const { job, read, problem } = choice;
  return (
    <>
      <Field
        label="File"
        hint="CSV or another delimited text, a spreadsheet (XLSX), JSON or JSON Lines. What it holds is found out."
      >
        {(ids) => (
          <input
            type="file"
            accept=".csv,.tsv,.txt,.xlsx,.json,.jsonl,.ndjson"
            className="field"
            {...ids}
            onChange={(event) => choice.choose(event.target.files?.[0])}
          />
        )}
      </Field>
      {choice.sending && <p role="status">Sending it …</p>}
      {job !== null && <JobProgress ways={ways} job={job} doing="Reading the file" />}
      {problem && <Notice kind="fault">{problemText(problem)}</Notice>}
      {read && <Facts read={read} onSheet={choice.chooseSheet} />}
    </>
  );
}

const delimiterWords: Record<string, string> = { ',': 'commas', ';': 'semicolons', '\t': 'tabs', '|': 'upright bars' };

function Facts({ read: { facts, rows, columns }, onSheet }: { read: ReadFile; onSheet: (sheet: string) => void }) {
  return (
    <div className="grid gap-2">
      <p>
        {counted(rows, 'row')} in {counted(columns.length, 'column')}, {described(facts)}.
      </p>
      {(facts.sheets?.length ?? 0) > 1 && (
        <div className="max-w-80">
          <Field label="Sheet">
            {(ids) => (
              <Select {...ids} value={facts.sheet} onPick={(picked) => onSheet(picked)}>
                {facts.sheets!.map((sheet) => (
                  <option key={sheet}>{sheet}</option>
                ))}
              </Select>
            )}
          </Field>
        </div>
      )}
      {facts.remarks.map((remark) => (
        <p key={remark} className="flex gap-1.5">
          <TriangleAlert size={16} aria-label="To know" className="mt-1 shrink-0 text-ochre" />
          {remark}
        </p>
      ))}
    </div>
  );
}

function described(facts: FileFacts): string {
  if (facts.format !== 'delimited text')
    return facts.format === 'spreadsheet' ? 'from a spreadsheet' : `from ${facts.format}`;
  return (
    `in ${facts.encoding}, divided by ${delimiterWords[facts.delimiter!]}, ` +
    `${facts.headed ? 'the first line names the columns' : 'without a line that names the columns'}`
  );
}

/** What a column of the file looks like, and what to look at. */
export function Samples({ column }: { column: InferredColumn }) {
  return (
    <>
      <span className="text-sm">
        {column.samples.map((sample) => (sample.length > 40 ? `${sample.slice(0, 40)}…` : sample)).join(' · ')}
      </span>
      {column.doubts.map((doubt) => (
        <span key={doubt} className="mt-1 flex gap-1.5 text-sm">
          <TriangleAlert size={15} aria-label="Look at this" className="mt-0.5 shrink-0 text-ochre" />
          {doubt}
        </span>
      ))}
    </>
  );
}
