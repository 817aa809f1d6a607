import { useEffect, useState } from 'react';
import { useQueryClient } from '@tanstack/react-query';
import { fileTypes, type FileType, type InferredColumn } from '../../../core/table/infer';
import { takesNotation } from '../../../core/table/read-cell';
import { bench, type BenchApi } from '../../client/bench';
import {
  benchFiles,
  isOver,
  jobProblem,
  useJob,
  useStartJob,
  type ReadFile,
  type RefusedCell,
} from '../../client/files';
import { ServerProblem } from '../../client/http';
import { Button } from '../../ui/Button';
import { Field } from '../../ui/Field';
import { Notice } from '../../ui/Notice';
import { StageHead } from '../bench/StageFrame';
import { FileChooser, Samples, useFileChoice } from '../../files/FileChooser';
import { JobProgress } from '../../jobs/JobProgress';
import { NotationChoice } from '../../files/NotationChoice';
import { Select } from '../../ui/Select';
import { DataTable } from '../../ui/DataTable';

/** A file becomes a table: what was found in it, with types to correct, before anything is made. */
export function FileToTable({
  slug,
  onDone,
  onCancel,
}: {
  slug: string;
  onDone: (table: string) => void;
  onCancel: () => void;
}) {
  const choice = useFileChoice(benchFiles(slug));
  const { read } = choice;
  return (
    <>
      <StageHead title="Table from a file">
        <Button small onClick={onCancel}>
          Cancel
        </Button>
      </StageHead>
      <div className="grid content-start gap-4 p-4">
        <FileChooser ways={benchFiles(slug)} choice={choice} />
        {read && <Plan key={`${read.file} ${read.facts.sheet ?? ''}`} slug={slug} read={read} onDone={onDone} />}
      </div>
    </>
  );
}

/** What is told of a column, without what was only found out of it. */
function planned({
  samples: _samples,
  doubts: _doubts,
  ask: _ask,
  could: _could,
  choices,
  notation,
  ...column
}: InferredColumn) {
  return {
    ...column,
    ...(column.type === 'one choice' ? { choices } : {}),
    ...(notation && takesNotation(column, notation) ? { notation } : {}),
  };
}

function Plan({ slug, read, onDone }: { slug: string; read: ReadFile; onDone: (table: string) => void }) {
  const client = useQueryClient();
  const [name, setName] = useState(
    () =>
      read.name
        .replace(/\.[^.]*$/, '')
        .toLowerCase()
        .replaceAll(/[^a-z0-9]+/g, '_')
        .replaceAll(/^[_\d]+|_+$/g, '')
        .slice(0, 60) || 'table_1',
  );
  const [columns, setColumns] = useState(read.columns);
  const [job, setJob] = useState<number | null>(null);
  const start = useStartJob((body: BenchApi['POST /jobs']['body']) => bench(slug)('POST /jobs', { body }));
  const state = useJob(benchFiles(slug), job).data;
  const set = (i: number, change: Partial<InferredColumn>) =>
    setColumns(columns.map((column, j) => (j === i ? { ...column, ...change } : column)));
  const error = start.error ?? jobProblem(state);
  const problem = error instanceof ServerProblem ? error : null;
  const fields = (problem?.body.fields ?? {}) as Record<string, string>;
  const cells = (problem?.body.cells ?? []) as RefusedCell[];
  const working = start.isPending || (job !== null && !isOver(state));
  const made = state?.state === 'done' ? (state.result as { table: string }).table : null;
  useEffect(() => {
    if (made === null) return;
    void client.invalidateQueries({ queryKey: ['builder', slug] }).then(() => onDone(made));
  }, [made, client, slug, onDone]);
  const submit = () => {
    const plan = { name, columns: columns.map(planned) };
    start.mutate({ kind: 'table from a file', file: read.file, plan }, { onSuccess: (begun) => setJob(begun.id) });
  };
  return (
    <form
      className="grid gap-4"
      onSubmit={(event) => {
        event.preventDefault();
        submit();
      }}
    >
      <div className="max-w-80">
        <Field label="Name of the table" fault={fields.name}>
          {(ids) => (
            <input
              className="field font-code"
              {...ids}
              value={name}
              onChange={(event) => setName(event.target.value)}
            />
          )}
        </Field>
      </div>
      <DataTable label="Columns of the file" head={['In the file', 'Column', 'Type', 'For example']} framed>
        {columns.map((column, i) => (
          <tr key={column.header}>
            <td className="font-semibold">
              {column.header}
              {column.nullable && <span className="block text-sm font-normal text-soft">with gaps</span>}
            </td>
            <td>
              <input
                className="field min-w-32 font-code"
                aria-label={`Name of ${column.header}`}
                value={column.name}
                onChange={(event) => set(i, { name: event.target.value })}
              />
            </td>
            <td>
              <TypeChoice column={column} found={read.columns[i]!.type} onChange={(type) => set(i, { type })} />
              <NotationChoice
                header={column.header}
                type={column.type}
                asked={column.ask}
                value={column.notation}
                onChange={(notation) => set(i, { notation })}
              />
            </td>
            <td>
              <Samples column={column} />
            </td>
          </tr>
        ))}
      </DataTable>
      {problem && cells.length === 0 && Object.keys(fields).length === 0 && (
        <Notice kind="fault">{problem.message}</Notice>
      )}
      {Object.entries(fields)
        .filter(([field]) => field !== 'name')
        .map(([field, reason]) => (
          <Notice key={field} kind="fault">
            {field}: {reason}
          </Notice>
        ))}
      {cells.length > 0 && (
        <Notice kind="fault">
          {problem!.message}
          <ul className="mt-1 list-disc pl-5">
            {cells.map((cell) => (
              <li key={`${cell.row} ${cell.column}`}>
                row {cell.row}, {cell.column}, “{cell.value}”: {cell.reason}
              </li>
            ))}
          </ul>
        </Notice>
      )}
      {job !== null && <JobProgress ways={benchFiles(slug)} job={job} doing={`Making ${name}`} />}
      <div>
        <Button
          type="submit"
          weight="main"
          disabled={working || name === ''}
        >{`Make ${name} with ${read.rows.toLocaleString()} ${read.rows === 1 ? 'row' : 'rows'}`}</Button>
      </div>
    </form>
  );
}

/**
 * The types that every value fits stand first; one choice only where a few values stand in the column again and again.
 */
function TypeChoice({
  column,
  found,
  onChange,
}: {
  column: InferredColumn;
  found: FileType;
  onChange: (type: FileType) => void;
}) {
  const fitting = [
    ...new Set<FileType>([found, ...column.could, ...(column.could.length > 0 ? ['text' as const] : [])]),
  ];
  const other = fileTypes.filter((type) => !fitting.includes(type) && type !== 'one choice');
  return (
    <>
      <Select
        className="min-w-40"
        aria-label={`Type of ${column.header}`}
        value={column.type}
        onPick={(picked) => onChange(picked as FileType)}
      >
        <optgroup label="Every value fits">
          {fitting.map((type) => (
            <option key={type}>{type}</option>
          ))}
        </optgroup>
        <optgroup label="Others">
          {other.map((type) => (
            <option key={type}>{type}</option>
          ))}
        </optgroup>
      </Select>
      {column.could
        .filter((type) => type !== column.type)
        .map((type) => (
          <button
            key={type}
            type="button"
            className="block text-left text-sm text-water underline"
            onClick={() => onChange(type)}
          >
            every value fits {type}
          </button>
        ))}
      {column.type === 'one choice' && (
        <span className="block max-w-56 text-sm text-soft">{column.choices!.join(', ')}</span>
      )}
    </>
  );
}
