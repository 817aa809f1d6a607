import { useState } from 'react';
import type { DrawnColumn } from '../../../core/table/drawn';
import { problemText, ServerProblem } from '../../client/http';
import { useShaping } from '../../client/shape';
import { Button } from '../../ui/Button';
import { Field } from '../../ui/Field';
import { Notice } from '../../ui/Notice';
import { Select } from '../../ui/Select';
import { useBench } from '../bench/bench-context';
import { StageHead } from '../bench/StageFrame';
import { ColumnFields, newColumn, tidy } from './ColumnFields';

/** A table drawn by hand. Each record gets an id of its own. */
export function DrawTable({ onDone, onCancel }: { onDone: (table: string) => void; onCancel: () => void }) {
  const { slug, catalogue } = useBench();
  const [name, setName] = useState('');
  const [columns, setColumns] = useState<{ column: DrawnColumn; colours: Record<string, number> }[]>([
    { column: newColumn(), colours: {} },
  ]);
  const [stamps, setStamps] = useState(true);
  const [ids, setIds] = useState('number');
  const draw = useShaping(slug, 'POST /shape/tables');
  const problem = draw.error instanceof ServerProblem ? draw.error : null;
  const faults = (problem?.body.fields ?? {}) as Record<string, string>;
  const set = (i: number, change: Partial<(typeof columns)[number]>) =>
    setColumns(columns.map((each, j) => (j === i ? { ...each, ...change } : each)));
  const submit = () =>
    draw.mutate(
      {
        body: {
          name,
          columns: columns.map((each) => tidy(each.column)),
          stamps,
          ids: ids.startsWith('short ') ? { kind: 'short', of: ids.slice(6) } : { kind: ids as 'number' },
          colours: Object.fromEntries(
            columns
              .filter((each) => Object.keys(each.colours).length > 0)
              .map((each) => [each.column.name.trim(), each.colours]),
          ),
        },
      },
      { onSuccess: (made) => onDone(made.table) },
    );
  return (
    <>
      <StageHead title="A new table">
        <Button small onClick={onCancel}>
          Cancel
        </Button>
      </StageHead>
      <form
        className="grid content-start gap-4 p-4"
        onSubmit={(event) => {
          event.preventDefault();
          submit();
        }}
      >
        <div className="max-w-80">
          <Field label="Name of the table" hint="Lower-case letters, digits and _" fault={faults.name}>
            {(ids) => (
              <input
                className="field font-code"
                autoComplete="off"
                {...ids}
                value={name}
                onChange={(event) => setName(event.target.value)}
              />
            )}
          </Field>
        </div>
        <ol className="grid gap-3">
          {columns.map(({ column, colours }, i) => (
            <li key={i} className="grid gap-2 rounded-stone border border-line p-3">
              <div className="flex items-center">
                <h2 className="flex-1 text-sm">Column {i + 1}</h2>
                {columns.length > 1 && (
                  <Button small weight="quiet" onClick={() => setColumns(columns.filter((_, j) => j !== i))}>
                    Take it away
                  </Button>
                )}
              </div>
              <ColumnFields
                column={column}
                colours={colours}
                tables={catalogue.tables
                  .filter((table) => table.stored === undefined && table.key.length === 1)
                  .map((table) => table.name)}
                faults={column.name && faults[column.name] ? { name: faults[column.name]! } : {}}
                onChange={(change) => set(i, { column: { ...column, ...change } })}
                onColours={(next) => set(i, { colours: next })}
              />
            </li>
          ))}
        </ol>
        <div className="flex flex-wrap items-center gap-4">
          <Button onClick={() => setColumns([...columns, { column: newColumn(), colours: {} }])}>
            + another column
          </Button>
          <label className="flex items-center gap-2">
            A record is known by
            <Select className="w-auto" value={ids} onPick={setIds}>
              <option value="number">a number</option>
              <option value="random">a random id</option>
              {columns
                .filter(({ column }) => column.type === 'text' && column.required && column.name !== '')
                .map(({ column }) => (
                  <option key={column.name} value={`short ${column.name}`}>
                    {column.name} in short, as in harrow-end
                  </option>
                ))}
            </Select>
          </label>
          <label className="flex items-center gap-2">
            <input type="checkbox" checked={stamps} onChange={(event) => setStamps(event.target.checked)} /> note when a
            record was made and last changed
          </label>
        </div>
        {problem && !columns.some(({ column }) => faults[column.name]) && !faults.name && (
          <Notice kind="fault">{problemText(problem)}</Notice>
        )}
        <div>
          <Button
            type="submit"
            weight="main"
            disabled={draw.isPending || name === '' || columns.some(({ column }) => column.name === '')}
          >
            Make {name || 'the table'}
          </Button>
        </div>
      </form>
    </>
  );
}
