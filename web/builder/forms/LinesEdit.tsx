import type { FormLines } from '../../../core/definition/form';
import { findTable } from '../../../core/table/catalogue';
import { useBench } from '../bench/bench-context';
import { useNames } from '../bench/names';
import { fillable } from './form-edits';

/** What is asked of each line that is sent with a form, and how many there may be. */
export function LinesEdit({
  part,
  onChange,
}: {
  part: FormLines;
  onChange: (label: string, recipe: (part: FormLines) => void) => void;
}) {
  const { draft, catalogue } = useBench();
  const names = useNames();
  const table = findTable(catalogue, part.table);
  if (!table) return <p className="text-sm text-iron">There is no table {part.table} any more.</p>;
  const called = (column: string) => names.column(part.table, column);
  const of = names.tableInText(part.table);
  const count = (words: string, key: 'least' | 'most') => (
    <label className="inline-flex items-center gap-2 text-sm">
      {words}
      <input
        type="number"
        className="field w-20"
        min={1}
        max={100}
        key={part[key] ?? ''}
        defaultValue={part[key] ?? ''}
        onBlur={(event) => {
          const typed = event.target.value === '' ? undefined : Math.trunc(Number(event.target.value));
          if (typed === part[key] || (typed !== undefined && !(typed >= 1 && typed <= 100))) return;
          onChange(`Set how many lines of ${of} there are`, (next) => {
            if (typed === undefined) delete next[key];
            else next[key] = typed;
          });
        }}
      />
    </label>
  );
  return (
    <div className="grid gap-2">
      <ul className="grid gap-1" aria-label={`What is asked of each of ${of}`}>
        {fillable(draft, table)
          .filter((column) => column !== part.by)
          .map((column) => {
            const input = part.inputs.find((each) => each.column === column);
            return (
              <li key={column} className="flex flex-wrap gap-4">
                <label className="inline-flex min-h-6 min-w-48 items-center gap-2">
                  <input
                    type="checkbox"
                    checked={input !== undefined}
                    disabled={input !== undefined && part.inputs.length === 1}
                    onChange={(event) => {
                      const given = event.target.checked;
                      onChange(`Set whether ${called(column)} is asked`, (next) => {
                        if (given) next.inputs.push({ column });
                        else next.inputs = next.inputs.filter((each) => each.column !== column);
                      });
                    }}
                  />{' '}
                  {called(column)}
                </label>
                {input && (
                  <label className="inline-flex min-h-6 items-center gap-1.5 text-sm">
                    <input
                      type="checkbox"
                      checked={input.required === true}
                      onChange={(event) => {
                        const must = event.target.checked;
                        onChange(`Set whether ${called(column)} must be given`, (next) => {
                          const known = next.inputs.find((each) => each.column === column)!;
                          if (must) known.required = true;
                          else delete known.required;
                        });
                      }}
                    />{' '}
                    must be given
                  </label>
                )}
              </li>
            );
          })}
      </ul>
      <span className="flex flex-wrap gap-4">
        {count('At least', 'least')}
        {count('At most', 'most')}
      </span>
    </div>
  );
}
