import { useState, type ReactNode } from 'react';
import { TriangleAlert } from 'lucide-react';
import { fileTypes, type FileType, type InferredColumn } from '../../../core/table/infer';
import { problemText, ServerProblem } from '../../client/http';
import { useFileTable, usePreviewFile, type FilePreview, type RefusedCell } from '../../client/files';
import { Button } from '../../ui/Button';
import { Field } from '../../ui/Field';
import { Notice, Skeleton } from '../../ui/Notice';
import { StageHead } from '../StageFrame';

const delimiterWords: Record<string, string> = { ',': 'commas', ';': 'semicolons', '\t': 'tabs', '|': 'upright bars' };

/** A file becomes a table: what was found in it, with types to correct, before anything is made. */
export function FileToTable({ slug, onDone, onCancel }: { slug: string; onDone: (table: string) => void; onCancel: () => void }) {
  const [file, setFile] = useState<File | null>(null);
  const preview = usePreviewFile(slug);
  const choose = (chosen: File | undefined) => {
    if (!chosen) return;
    setFile(chosen);
    preview.mutate(chosen);
  };
  return (
    <>
      <StageHead title="Table from a file"><Button small onClick={onCancel}>Cancel</Button></StageHead>
      <div className="grid content-start gap-4 p-4">
        <Field label="File" hint="CSV or another delimited text, up to 30 MB. Encoding, delimiter and header are found out.">{(ids) => <input type="file" accept=".csv,.tsv,.txt,text/csv,text/plain" className="field" {...ids} onChange={(event) => choose(event.target.files?.[0])} />}</Field>
        {preview.isPending && <Skeleton lines={4} />}
        {preview.isError && <Notice kind="fault">{problemText(preview.error)}</Notice>}
        {preview.data && file && <Plan key={`${file.name} ${file.lastModified} ${file.size}`} slug={slug} file={file} preview={preview.data} onDone={onDone} />}
      </div>
    </>
  );
}

function Plan({ slug, file, preview, onDone }: { slug: string; file: File; preview: FilePreview; onDone: (table: string) => void }) {
  const [name, setName] = useState(() => file.name.replace(/\.[^.]*$/, '').toLowerCase().replaceAll(/[^a-z0-9]+/g, '_').replaceAll(/^[_\d]+|_+$/g, '').slice(0, 60) || 'table_1');
  const [columns, setColumns] = useState(preview.columns);
  const make = useFileTable(slug);
  const set = (i: number, change: Partial<InferredColumn>) => setColumns(columns.map((column, j) => (j === i ? { ...column, ...change } : column)));
  const problem = make.error instanceof ServerProblem ? make.error : null;
  const fields = (problem?.body.fields ?? {}) as Record<string, string>;
  const cells = (problem?.body.cells ?? []) as RefusedCell[];
  const submit = () => make.mutate({ file, plan: { name, columns: columns.map(({ samples: _samples, doubts: _doubts, ...column }) => column) } }, { onSuccess: () => onDone(name) });
  return (
    <form className="grid gap-4" onSubmit={(event) => { event.preventDefault(); submit(); }}>
      <p>{preview.rows.toLocaleString()} {preview.rows === 1 ? 'row' : 'rows'} in {columns.length} columns, in {preview.encoding}, divided by {delimiterWords[preview.delimiter]}, {preview.headed ? 'the first line names the columns' : 'without a line that names the columns'}.</p>
      <div className="max-w-80"><Field label="Name of the table" fault={fields.name}>{(ids) => <input className="field font-code" {...ids} value={name} onChange={(event) => setName(event.target.value)} />}</Field></div>
      <div className="overflow-x-auto rounded-stone border border-line" tabIndex={0} role="region" aria-label="Columns of the file">
        <table className="w-full text-left">
          <thead><tr className="border-b border-line text-sm text-soft">{['In the file', 'Column', 'Type', 'For example'].map((head) => <th key={head} scope="col" className="px-3 py-2 font-semibold">{head}</th>)}</tr></thead>
          <tbody>{columns.map((column, i) => (
            <tr key={column.header} className="border-b border-line align-top last:border-0">
              <td className="px-3 py-2 font-semibold">{column.header}{column.nullable && <span className="block text-sm font-normal text-soft">with gaps</span>}</td>
              <td className="px-3 py-1.5"><input className="field min-w-32 font-code" aria-label={`Name of ${column.header}`} value={column.name} onChange={(event) => set(i, { name: event.target.value })} /></td>
              <td className="px-3 py-1.5">
                <select className="field min-w-40" aria-label={`Type of ${column.header}`} value={column.type} onChange={(event) => set(i, { type: event.target.value as FileType })}>{fileTypes.map((type) => <option key={type}>{type}</option>)}</select>
              </td>
              <td className="px-3 py-2"><Samples column={column} /></td>
            </tr>
          ))}</tbody>
        </table>
      </div>
      {problem && cells.length === 0 && Object.keys(fields).length === 0 && <Notice kind="fault">{problem.message}</Notice>}
      {Object.entries(fields).filter(([field]) => field !== 'name').map(([field, reason]) => <Notice key={field} kind="fault">{field}: {reason}</Notice>)}
      {cells.length > 0 && <Notice kind="fault">{problem!.message}<ul className="mt-1 list-disc pl-5">{cells.map((cell) => <li key={`${cell.row} ${cell.column}`}>row {cell.row}, {cell.column}, “{cell.value}”: {cell.reason}</li>)}</ul></Notice>}
      <div><Button type="submit" weight="main" disabled={make.isPending || name === ''}>{make.isPending ? 'Making it …' : `Make ${name} with ${preview.rows.toLocaleString()} ${preview.rows === 1 ? 'row' : 'rows'}`}</Button></div>
    </form>
  );
}

function Samples({ column }: { column: InferredColumn }): ReactNode {
  return (
    <>
      <span className="text-sm">{column.samples.map((sample) => (sample.length > 40 ? `${sample.slice(0, 40)}…` : sample)).join(' · ')}</span>
      {column.doubts.map((doubt) => <span key={doubt} className="mt-1 flex gap-1.5 text-sm"><TriangleAlert size={15} aria-label="Look at this" className="mt-0.5 shrink-0 text-ochre" />{doubt}</span>)}
    </>
  );
}
