import { useState, type ReactNode } from 'react';
import type { ImportColumn, ImportPlan } from '../../core/table/import-plan';
import type { ImportTarget } from '../../core/table/import-target';
import {
  isOver,
  jobProblem,
  useImportPlan,
  useJob,
  useStartJob,
  type BringMode,
  type BringOutcome,
  type ImportResult,
  type ImportWays,
  type JobState,
  type ReadFile,
} from '../client/files';
import { problemText, ServerProblem } from '../client/http';
import { Button } from '../ui/Button';
import { Field } from '../ui/Field';
import { Notice, Skeleton } from '../ui/Notice';
import { Select } from '../ui/Select';
import { FileChooser, useFileChoice } from './FileChooser';
import { JobProgress } from '../jobs/JobProgress';
import { ColumnTable } from './ImportColumns';
import { sentence, Looked, RefusedList, RefusedLink, Actions } from './ImportOutcome';

/**
 * A file goes into a table that is there: its columns are told once, what would come of it is shown, and then it is
 * done. `onAgain` when it was, and another is begun.
 */
export function BringFile({
  ways,
  table,
  onAgain,
  further,
}: {
  ways: ImportWays;
  table: string;
  onAgain: () => void;
  /** Other ways by which a file comes: each tells the job that reads it. */
  further?: (goOn: (job: number) => void) => ReactNode;
}) {
  const choice = useFileChoice(ways);
  const { read } = choice;
  return (
    <>
      {further?.(choice.goOn)}
      <FileChooser ways={ways} choice={choice} />
      {read && (
        <Mapping
          key={`${read.file} ${read.facts.sheet ?? ''}`}
          ways={ways}
          table={table}
          read={read}
          onAgain={onAgain}
        />
      )}
    </>
  );
}

function Mapping({
  ways,
  table,
  read,
  onAgain,
}: {
  ways: ImportWays;
  table: string;
  read: ReadFile;
  onAgain: () => void;
}) {
  const suggested = useImportPlan(ways, read.file, table);
  if (suggested.isPending) return <Skeleton lines={5} />;
  if (suggested.isError) return <Notice kind="fault">{problemText(suggested.error)}</Notice>;
  const { plan, remembered, target } = suggested.data;
  return <Planned ways={ways} target={target} read={read} first={plan} remembered={remembered} onAgain={onAgain} />;
}

function Planned({
  ways,
  target,
  read,
  first,
  remembered,
  onAgain,
}: {
  ways: ImportWays;
  target: ImportTarget;
  read: ReadFile;
  first: ImportPlan;
  remembered: boolean;
  onAgain: () => void;
}) {
  const [plan, setPlan] = useState(first);
  const [looking, setLooking] = useState<number | null>(null);
  const [doing, setDoing] = useState<number | null>(null);
  const start = useStartJob((begin: () => Promise<JobState>) => begin());
  const looked = useJob(ways, looking).data;
  const done = useJob(ways, doing).data;
  const change = (next: Partial<ImportPlan>) => {
    setPlan({ ...plan, ...next });
    setLooking(null);
    setDoing(null);
  };
  const setColumn = (header: string, next: ImportColumn | null) => {
    const others = plan.columns.filter((each) => each.header !== header && each.column !== next?.column);
    const columns = next ? [...others, next] : others;
    change({
      columns: read.columns.flatMap((column) => columns.find((each) => each.header === column.header) ?? []),
      key: columns.some((each) => each.column === plan.key) ? plan.key : null,
    });
  };
  const look = () => {
    setDoing(null);
    start.mutate(() => ways.look(read.file, plan), { onSuccess: (job) => setLooking(job.id) });
  };
  const result = looked?.state === 'done' ? (looked.result as ImportResult) : null;
  const apply = (mode: BringMode) =>
    start.mutate(() => ways.bring(read.file, plan, mode, result!.outcome.digest), {
      onSuccess: (job) => setDoing(job.id),
    });
  const error = start.error ?? jobProblem(done) ?? jobProblem(looked);
  const fields = error instanceof ServerProblem ? ((error.body.fields ?? {}) as Record<string, string>) : {};
  const finished = done?.state === 'done' ? (done.result as ImportResult) : null;
  const late = error instanceof ServerProblem ? (error.body.outcome as BringOutcome | undefined) : undefined;
  const busy = start.isPending || (looking !== null && !isOver(looked)) || (doing !== null && !isOver(done));
  const again = () => {
    setLooking(null);
    setDoing(null);
    onAgain();
  };
  return (
    <>
      {remembered && <p className="text-soft">The columns go where they went the last time.</p>}
      <ColumnTable target={target} read={read} plan={plan} fields={fields} setColumn={setColumn} />
      <div className="grid max-w-200 gap-4 sm:grid-cols-3">
        <Field
          label="A record is known by"
          hint={plan.key === null ? 'Every row is a new record.' : undefined}
          fault={fields.key}
        >
          {(ids) => (
            <Select {...ids} value={plan.key ?? ''} onPick={(picked) => change({ key: picked || null })}>
              <option value="">nothing: add every row</option>
              {plan.columns.map((each) => (
                <option key={each.column} value={each.column}>
                  {target.columns.find(({ name }) => name === each.column)?.label ?? each.column}
                </option>
              ))}
            </Select>
          )}
        </Field>
        {plan.key !== null && (
          <>
            <Field label="Known records">
              {(ids) => (
                <Select
                  {...ids}
                  value={plan.known}
                  onPick={(picked) => change({ known: picked as ImportPlan['known'] })}
                >
                  <option value="change">are changed</option>
                  <option value="refuse">are refused</option>
                </Select>
              )}
            </Field>
            <Field label="New records">
              {(ids) => (
                <Select
                  {...ids}
                  value={plan.unknown}
                  onPick={(picked) => change({ unknown: picked as ImportPlan['unknown'] })}
                >
                  <option value="add">are added</option>
                  <option value="refuse">are refused</option>
                </Select>
              )}
            </Field>
            <Field label="An empty cell">
              {(ids) => (
                <Select
                  {...ids}
                  value={plan.empty}
                  onPick={(picked) => change({ empty: picked as ImportPlan['empty'] })}
                >
                  <option value="clear">empties the column</option>
                  <option value="keep">leaves it as it is</option>
                </Select>
              )}
            </Field>
          </>
        )}
      </div>
      {error && Object.keys(fields).length === 0 && (
        <Notice kind="fault">
          {error.message}
          {late && late.samples.refused.length > 0 && <RefusedList outcome={late} />}
        </Notice>
      )}
      {Object.entries(fields)
        .filter(([field]) => field !== 'key' && !plan.columns.some((each) => each.header === field))
        .map(([field, reason]) => (
          <Notice key={field} kind="fault">
            {field}: {reason}
          </Notice>
        ))}
      {looking !== null && doing === null && (
        <JobProgress ways={ways} job={looking} doing="Looking what would come of it" />
      )}
      {doing !== null && <JobProgress ways={ways} job={doing} doing="Bringing it in" />}
      {!result && !finished && (
        <div>
          <Button weight="main" disabled={busy || plan.columns.length === 0} onClick={look}>
            Look what would change
          </Button>
        </div>
      )}
      {result && !finished && (
        <Looked target={target} result={result} refused={(file) => ways.refused(looking!, file)}>
          <Actions
            label={target.label}
            outcome={result.outcome}
            busy={busy}
            onApply={apply}
            onAgain={look}
            stale={Boolean(error)}
          />
        </Looked>
      )}
      {finished && (
        <Notice
          kind="say"
          action={
            <Button small onClick={again}>
              Bring another
            </Button>
          }
        >
          Done: {sentence(finished.outcome)} in {target.label}.
          {finished.refusedFile && (
            <>
              {' '}
              <RefusedLink address={ways.refused(doing!, finished.refusedFile)} outcome={finished.outcome} />
            </>
          )}
        </Notice>
      )}
    </>
  );
}
