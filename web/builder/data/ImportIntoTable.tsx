import { useState, type ReactNode } from 'react';
import { useQueryClient } from '@tanstack/react-query';
import { ArrowRight, Download } from 'lucide-react';
import {
  findColumn,
  findTable,
  isIdentifier,
  plainLabel,
  type Catalogue,
  type Table,
} from '../../../core/table/catalogue';
import { relationOf, type ImportColumn, type ImportPlan } from '../../../core/table/import-plan';
import type { Value } from '../../../core/table/value';
import {
  fileAddress,
  jobProblem,
  useImportPlan,
  useJob,
  useStartJob,
  type BringOutcome,
  type ImportResult,
  type ReadFile,
} from '../../client/files';
import { problemText, ServerProblem } from '../../client/http';
import { Button, buttonLook } from '../../ui/Button';
import { cellText } from '../../ui/Cell';
import { Field } from '../../ui/Field';
import { Notice, Skeleton } from '../../ui/Notice';
import { useBench } from '../bench/bench-context';
import { FileChooser, Samples, useFileChoice } from './FileChooser';
import { isOver, JobProgress } from './JobProgress';
import { NotationChoice } from './NotationChoice';

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
  const start = useStartJob(slug);
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
            <select
              className="field"
              {...ids}
              value={plan.key ?? ''}
              onChange={(event) => change({ key: event.target.value || null })}
            >
              <option value="">nothing: add every row</option>
              {plan.columns.map((each) => (
                <option key={each.column}>{each.column}</option>
              ))}
            </select>
          )}
        </Field>
        {plan.key !== null && (
          <>
            <Field label="Known records">
              {(ids) => (
                <select
                  className="field"
                  {...ids}
                  value={plan.known}
                  onChange={(event) => change({ known: event.target.value as ImportPlan['known'] })}
                >
                  <option value="change">are changed</option>
                  <option value="refuse">are refused</option>
                </select>
              )}
            </Field>
            <Field label="New records">
              {(ids) => (
                <select
                  className="field"
                  {...ids}
                  value={plan.unknown}
                  onChange={(event) => change({ unknown: event.target.value as ImportPlan['unknown'] })}
                >
                  <option value="add">are added</option>
                  <option value="refuse">are refused</option>
                </select>
              )}
            </Field>
            <Field label="An empty cell">
              {(ids) => (
                <select
                  className="field"
                  {...ids}
                  value={plan.empty}
                  onChange={(event) => change({ empty: event.target.value as ImportPlan['empty'] })}
                >
                  <option value="clear">empties the column</option>
                  <option value="keep">leaves it as it is</option>
                </select>
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

function ColumnTable({
  table,
  catalogue,
  read,
  plan,
  fields,
  setColumn,
}: {
  table: Table;
  catalogue: Catalogue;
  read: ReadFile;
  plan: ImportPlan;
  fields: Record<string, string>;
  setColumn: (header: string, next: ImportColumn | null) => void;
}) {
  return (
    <div
      className="overflow-x-auto rounded-stone border border-line"
      tabIndex={0}
      role="region"
      aria-label="Where the columns of the file go"
    >
      <table className="w-full text-left">
        <thead>
          <tr className="border-b border-line text-sm text-soft">
            {['In the file', 'For example', `Into ${table.name}`].map((head) => (
              <th key={head} scope="col" className="px-3 py-2 font-semibold">
                {head}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {read.columns.map((column) => {
            const mapped = plan.columns.find((each) => each.header === column.header);
            const relation = mapped && relationOf(table, mapped.column);
            const other = relation && findTable(catalogue, relation.table);
            const target = mapped && !mapped.by ? findColumn(table, mapped.column) : undefined;
            return (
              <tr key={column.header} className="border-b border-line align-top last:border-0">
                <td className="px-3 py-2 font-semibold">{column.header}</td>
                <td className="px-3 py-2">
                  <Samples column={{ ...column, doubts: [] }} />
                </td>
                <td className="px-3 py-1.5">
                  <select
                    className="field min-w-44"
                    aria-label={`Where ${column.header} goes`}
                    value={mapped?.column ?? ''}
                    onChange={(event) =>
                      setColumn(
                        column.header,
                        event.target.value === '' ? null : { header: column.header, column: event.target.value },
                      )
                    }
                  >
                    <option value="">nowhere: left out</option>
                    {table.columns
                      .filter((each) => each.type !== 'other')
                      .map((each) => (
                        <option key={each.name}>{each.name}</option>
                      ))}
                  </select>
                  {mapped && relation && other && (
                    <select
                      className="field mt-1 min-w-44"
                      aria-label={`What stands in ${column.header}`}
                      value={mapped.by ?? ''}
                      onChange={(event) =>
                        setColumn(column.header, {
                          header: column.header,
                          column: mapped.column,
                          ...(event.target.value ? { by: event.target.value } : {}),
                        })
                      }
                    >
                      <option value="">
                        holds {relation.targetColumn} of {relation.table}
                      </option>
                      {other.columns
                        .filter((each) => each.name !== relation.targetColumn && each.type === 'text')
                        .map((each) => (
                          <option key={each.name} value={each.name}>
                            holds {each.name} of {relation.table}
                          </option>
                        ))}
                    </select>
                  )}
                  {mapped && target && (
                    <NotationChoice
                      header={column.header}
                      type={target.type}
                      asked={column.ask}
                      value={mapped.notation}
                      onChange={(notation) => setColumn(column.header, { ...mapped, notation })}
                    />
                  )}
                  {fields[column.header] && (
                    <p className="mt-1 text-sm font-medium text-iron">{fields[column.header]}</p>
                  )}
                </td>
              </tr>
            );
          })}
        </tbody>
      </table>
    </div>
  );
}

const records = (count: number) => `${count.toLocaleString()} ${count === 1 ? 'record' : 'records'}`;

function sentence({ added, changed, same, refused }: BringOutcome): string {
  const parts = [
    added > 0 && `${records(added)} added`,
    changed > 0 && `${records(changed)} changed`,
    same > 0 && `${records(same)} ${same === 1 ? 'was' : 'were'} as in the file already`,
    refused > 0 && `${records(refused)} refused`,
  ].filter((part) => part !== false);
  return parts.length === 0 ? 'nothing to do' : parts.join(', ');
}

function Looked({
  table,
  result: { outcome, refusedFile },
  slug,
  children,
}: {
  table: Table;
  result: ImportResult;
  slug: string;
  children: ReactNode;
}) {
  const { samples } = outcome;
  const text = (name: string, value: Value) => {
    const column = table.columns.find((each) => each.name === name)!;
    return cellText(column.type, value, isIdentifier(table, column)) || '–';
  };
  return (
    <section aria-label="What would come of it" className="grid gap-4">
      <dl className="flex flex-wrap gap-x-8 gap-y-2 border-y border-line py-3">
        {(
          [
            ['would be added', outcome.added],
            ['would be changed', outcome.changed],
            ['are so already', outcome.same],
            ['are refused', outcome.refused],
          ] as const
        ).map(([what, count]) => (
          <div key={what} className="flex items-baseline gap-2">
            <dd className={`font-head text-xl ${what === 'are refused' && count > 0 ? 'text-iron' : ''}`}>
              {count.toLocaleString()}
            </dd>
            <dt className="text-soft">{what}</dt>
          </div>
        ))}
      </dl>
      {samples.changed.length > 0 && (
        <Part title="Changed" shown={samples.changed.length} of={outcome.changed}>
          <table className="w-full text-left text-sm">
            <thead>
              <tr className="border-b border-line text-soft">
                {['Row', 'Record', 'Column', 'Is', '', 'Would be'].map((head, i) => (
                  <th key={i} scope="col" className="px-3 py-1.5 font-semibold">
                    {head}
                  </th>
                ))}
              </tr>
            </thead>
            <tbody>
              {samples.changed.flatMap((record) =>
                Object.keys(record.after).map((column, i) => (
                  <tr key={`${record.line} ${column}`} className="border-b border-line last:border-0">
                    <td className="px-3 py-1 text-soft">{i === 0 ? record.line : ''}</td>
                    <td className="px-3 py-1">{i === 0 ? String(record.known) : ''}</td>
                    <td className="px-3 py-1 font-semibold">{plainLabel(column)}</td>
                    <td className="max-w-60 truncate px-3 py-1">{text(column, record.before[column]!)}</td>
                    <td aria-hidden>
                      <ArrowRight size={14} className="text-soft" />
                    </td>
                    <td className="max-w-60 truncate px-3 py-1 bg-lichen-wash">
                      {text(column, record.after[column]!)}
                    </td>
                  </tr>
                )),
              )}
            </tbody>
          </table>
        </Part>
      )}
      {samples.added.length > 0 && (
        <Part title="Added" shown={samples.added.length} of={outcome.added}>
          <table className="w-full text-left text-sm">
            <thead>
              <tr className="border-b border-line text-soft">
                <th scope="col" className="px-3 py-1.5 font-semibold">
                  Row
                </th>
                {Object.keys(samples.added[0]!.values).map((column) => (
                  <th key={column} scope="col" className="px-3 py-1.5 font-semibold whitespace-nowrap">
                    {plainLabel(column)}
                  </th>
                ))}
              </tr>
            </thead>
            <tbody>
              {samples.added.slice(0, 20).map((record) => (
                <tr key={record.line} className="border-b border-line last:border-0">
                  <td className="px-3 py-1 text-soft">{record.line}</td>
                  {Object.keys(samples.added[0]!.values).map((column) => (
                    <td key={column} className="max-w-60 truncate px-3 py-1">
                      {text(column, record.values[column] ?? null)}
                    </td>
                  ))}
                </tr>
              ))}
            </tbody>
          </table>
        </Part>
      )}
      {outcome.refused > 0 && (
        <Part
          title="Refused"
          shown={samples.refused.length}
          of={outcome.refused}
          aside={refusedFile && <RefusedLink slug={slug} file={refusedFile} outcome={outcome} />}
        >
          <RefusedList outcome={outcome} />
        </Part>
      )}
      {children}
    </section>
  );
}

function Part({
  title,
  shown,
  of,
  aside,
  children,
}: {
  title: string;
  shown: number;
  of: number;
  aside?: ReactNode;
  children: ReactNode;
}) {
  return (
    <section aria-label={title} className="grid gap-1">
      <div className="flex flex-wrap items-baseline gap-3">
        <h3 className="text-base">{title}</h3>
        {shown < of && (
          <span className="text-sm text-soft">
            the first {shown} of {of.toLocaleString()}
          </span>
        )}
        <span className="ml-auto">{aside}</span>
      </div>
      <div
        className="max-h-72 overflow-auto rounded-stone border border-line"
        tabIndex={0}
        role="region"
        aria-label={`${title} records`}
      >
        {children}
      </div>
    </section>
  );
}

function RefusedList({ outcome }: { outcome: BringOutcome }) {
  return (
    <table className="w-full text-left text-sm">
      <thead>
        <tr className="border-b border-line text-soft">
          {['Row', 'In the file', 'Value', 'Why'].map((head) => (
            <th key={head} scope="col" className="px-3 py-1.5 font-semibold">
              {head}
            </th>
          ))}
        </tr>
      </thead>
      <tbody>
        {outcome.samples.refused.flatMap((row) =>
          row.cells.map((cell, i) => (
            <tr key={`${row.line} ${cell.header} ${i}`} className="border-b border-line last:border-0">
              <td className="px-3 py-1 text-soft">{i === 0 ? row.line : ''}</td>
              <td className="px-3 py-1 font-semibold">{cell.header}</td>
              <td className="max-w-60 truncate px-3 py-1">
                {cell.value === '' ? <span className="text-soft">empty</span> : cell.value}
              </td>
              <td className="px-3 py-1">{cell.reason}</td>
            </tr>
          )),
        )}
      </tbody>
    </table>
  );
}

function RefusedLink({ slug, file, outcome }: { slug: string; file: string; outcome: BringOutcome }) {
  return (
    <a className={buttonLook('plain', true)} href={fileAddress(slug, file)} download>
      <Download size={15} aria-hidden />
      The {outcome.refused === 1 ? 'refused record' : `${outcome.refused.toLocaleString()} refused`} as a file
    </a>
  );
}

function Actions({
  table,
  outcome,
  busy,
  onApply,
  onAgain,
  stale,
}: {
  table: Table;
  outcome: BringOutcome;
  busy: boolean;
  onApply: (mode: 'all or nothing' | 'without the refused') => void;
  onAgain: () => void;
  stale: boolean;
}) {
  const parts = [
    outcome.added > 0 && `add ${outcome.added.toLocaleString()}`,
    outcome.changed > 0 && `change ${outcome.changed.toLocaleString()}`,
  ]
    .filter((part) => part !== false)
    .join(' and ');
  const what = parts.charAt(0).toUpperCase() + parts.slice(1);
  return (
    <div className="flex flex-wrap items-center gap-3">
      {stale && (
        <Button weight="main" disabled={busy} onClick={onAgain}>
          Look again
        </Button>
      )}
      {!stale && parts === '' && <p className="text-soft">There is nothing to bring into {table.name}.</p>}
      {!stale && parts !== '' && outcome.refused === 0 && (
        <Button weight="main" disabled={busy} onClick={() => onApply('all or nothing')}>
          {what} in {table.name}
        </Button>
      )}
      {!stale && parts !== '' && outcome.refused > 0 && (
        <>
          <Button weight="main" disabled={busy} onClick={() => onApply('without the refused')}>
            {what}, without the {outcome.refused.toLocaleString()} refused
          </Button>
          <span className="text-soft">Or mend the file and choose it again, so that all of it goes in.</span>
        </>
      )}
    </div>
  );
}
