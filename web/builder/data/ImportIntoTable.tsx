import { useState } from 'react';
import { useQueryClient } from '@tanstack/react-query';
import type { Catalogue, Table } from '../../../core/table/catalogue';
import type { ImportColumn, ImportPlan } from '../../../core/table/import-plan';
import { bench } from '../../client/bench';
import {
  isOver,
  jobProblem,
  useImportPlan,
  useJob,
  useStartJob,
  type BringOutcome,
  type ImportResult,
  type JobOrder,
  type ReadFile,
} from '../../client/files';
import { problemText, ServerProblem } from '../../client/http';
import { Button } from '../../ui/Button';
import { Field } from '../../ui/Field';
import { Notice, Skeleton } from '../../ui/Notice';
import { useBench } from '../bench/bench-context';
import { FileChooser, useFileChoice } from './FileChooser';
import { JobProgress } from './JobProgress';
import { ColumnTable } from './ImportColumns';
import { sentence, Looked, RefusedList, RefusedLink, Actions } from './ImportOutcome';
import { Select } from '../../ui/Select';

/**
 * A file goes into a table that is there: its columns are told once, what would come of it is shown, and then it is
 * done.
 */
export function ImportIntoTable({ table }: { table: Table }) {
  const { slug } = useBench();
  const choice = useFileChoice(slug);
  const { read } = choice;
  return (
    <div className="grid content-start gap-4 p-4">
      <FileChooser slug={slug} choice={choice} />
      {read && <Mapping key={`${read.file} ${read.facts.sheet ?? ''}`} table={table} read={read} />}
    </div>
  );
}

function Mapping({ table, read }: { table: Table; read: ReadFile }) {
  const { slug, catalogue } = useBench();
  const suggested = useImportPlan(slug, read.file, table.name);
  if (suggested.isPending) return <Skeleton lines={5} />;
  if (suggested.isError) return <Notice kind="fault">{problemText(suggested.error)}</Notice>;
  return (
    <Planned
      table={table}
      catalogue={catalogue}
      read={read}
      first={suggested.data.plan}
      remembered={suggested.data.remembered}
    />
  );
}

function Planned({
  table,
  catalogue,
  read,
  first,
  remembered,
}: {
  table: Table;
  catalogue: Catalogue;
  read: ReadFile;
  first: ImportPlan;
  remembered: boolean;
}) {
  const { slug } = useBench();
  const client = useQueryClient();
  const [plan, setPlan] = useState(first);
  const [looking, setLooking] = useState<number | null>(null);
  const [doing, setDoing] = useState<number | null>(null);
  const start = useStartJob((body: JobOrder) => bench(slug)('POST /jobs', { body }));
  const looked = useJob(slug, looking).data;
  const done = useJob(slug, doing).data;
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
    start.mutate({ kind: 'look at an import', file: read.file, plan }, { onSuccess: (job) => setLooking(job.id) });
  };
  const result = looked?.state === 'done' ? (looked.result as ImportResult) : null;
  const apply = (mode: 'all or nothing' | 'without the refused') =>
    start.mutate(
      { kind: 'import', file: read.file, plan, mode, digest: result!.outcome.digest },
      { onSuccess: (job) => setDoing(job.id) },
    );
  const error = start.error ?? jobProblem(done) ?? jobProblem(looked);
  const fields = error instanceof ServerProblem ? ((error.body.fields ?? {}) as Record<string, string>) : {};
  const finished = done?.state === 'done' ? (done.result as ImportResult) : null;
  const late = error instanceof ServerProblem ? (error.body.outcome as BringOutcome | undefined) : undefined;
  const busy = start.isPending || (looking !== null && !isOver(looked)) || (doing !== null && !isOver(done));
  const again = () => {
    setLooking(null);
    setDoing(null);
    void client.invalidateQueries({ queryKey: ['builder', slug] });
  };
  return (
    <>
      {remembered && <p className="text-soft">The columns go where they went the last time.</p>}
      <ColumnTable table={table} catalogue={catalogue} read={read} plan={plan} fields={fields} setColumn={setColumn} />
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
                <option key={each.column}>{each.column}</option>
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
        <JobProgress slug={slug} job={looking} doing="Looking what would come of it" />
      )}
      {doing !== null && <JobProgress slug={slug} job={doing} doing="Bringing it in" />}
      {!result && !finished && (
        <div>
          <Button weight="main" disabled={busy || plan.columns.length === 0} onClick={look}>
            Look what would change
          </Button>
        </div>
      )}
      {result && !finished && (
        <Looked table={table} result={result} slug={slug}>
          <Actions
            table={table}
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
          Done: {sentence(finished.outcome)} in {table.name}.
          {finished.refusedFile && (
            <>
              {' '}
              <RefusedLink slug={slug} file={finished.refusedFile} outcome={finished.outcome} />
            </>
          )}
        </Notice>
      )}
    </>
  );
}
