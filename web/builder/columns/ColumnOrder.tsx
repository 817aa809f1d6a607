import { ArrowDown, ArrowUp, X } from 'lucide-react';
import { describeOperand } from '../../../core/condition/describe';
import { printPath, readPath } from '../../../core/definition/path';
import { withCrossings } from '../../../core/definition/sources';
import { findTable, type Table } from '../../../core/table/catalogue';
import { useBench } from '../bench/bench-context';
import { columnChoices } from '../access/choices';
import { Select } from '../../ui/Select';
import { hint } from '../../ui/hint';
import { useNames } from '../bench/names';

/**
 * Chosen columns in their order, and a choice of what can be added: the table's own and, through relations, others'.
 */
export function ColumnOrder({
  title,
  table,
  visible,
  chosen,
  headings,
  onHeading,
  onChange,
}: {
  title: string;
  table: Table;
  visible: string[];
  chosen: string[];
  /** What columns are called here alone; absent where they can't be named. */
  headings?: Record<string, string>;
  onHeading?: (path: string, heading: string) => void;
  onChange: (columns: string[]) => void;
}) {
  const { catalogue: whole, draft } = useBench();
  const catalogue = withCrossings(draft, whole);
  const choices = columnChoices(catalogue, findTable(catalogue, table.name)!)
    .map((choice) => printPath(choice.path))
    .filter((path) => !chosen.includes(path));
  const own = choices.filter((path) => (readPath(path)?.length ?? 0) === 1);
  const names = useNames();
  const label = (path: string) =>
    own.includes(path) || (readPath(path)?.length ?? 0) === 1
      ? names.path(table.name, path)
      : describeOperand({ kind: 'column', path: readPath(path) ?? [path] });
  const move = (i: number, by: number) => {
    const next = [...chosen];
    const [moved] = next.splice(i, 1);
    next.splice(i + by, 0, moved!);
    onChange(next);
  };
  const small = 'grid size-7 place-items-center rounded-stone text-soft hover:bg-sunk disabled:opacity-30';
  return (
    <fieldset className="min-w-0">
      <legend className="text-sm font-semibold">{title}</legend>
      <ol className="mt-1 rounded-stone border border-line">
        {chosen.length === 0 && <li className="px-3 py-2 text-soft">none yet</li>}
        {chosen.map((path, i) => (
          <li key={path} className="flex items-center gap-1 border-b border-line px-3 py-0.5 last:border-0">
            {onHeading ? (
              <input
                className={
                  'min-w-0 flex-1 rounded-stone border border-transparent bg-transparent px-1 py-0.5 ' +
                  'hover:border-line-strong focus:border-line-strong'
                }
                aria-label={`Heading of ${label(path)}`}
                {...hint(path)}
                key={headings?.[path] ?? ''}
                defaultValue={headings?.[path] ?? label(path)}
                maxLength={120}
                onBlur={(event) => {
                  const typed = event.target.value.trim();
                  // As it is called anyway is no name of its own.
                  const heading = typed === label(path) ? '' : typed;
                  if (heading === '') event.target.value = label(path);
                  if (heading !== (headings?.[path] ?? '')) onHeading(path, heading);
                }}
              />
            ) : (
              <span className="min-w-0 flex-1 truncate" {...hint(path)}>
                {label(path)}
              </span>
            )}
            <button
              type="button"
              className={small}
              disabled={i === 0}
              aria-label={`Move ${path} up`}
              onClick={() => move(i, -1)}
            >
              <ArrowUp size={14} aria-hidden />
            </button>
            <button
              type="button"
              className={small}
              disabled={i === chosen.length - 1}
              aria-label={`Move ${path} down`}
              onClick={() => move(i, 1)}
            >
              <ArrowDown size={14} aria-hidden />
            </button>
            <button
              type="button"
              className={small}
              aria-label={`Take out ${path}`}
              onClick={() => onChange(chosen.filter((each) => each !== path))}
            >
              <X size={14} aria-hidden />
            </button>
          </li>
        ))}
      </ol>
      <Select
        className="mt-2"
        aria-label={`Add to: ${title}`}
        value=""
        onPick={(picked) => {
          if (picked) onChange([...chosen, picked]);
        }}
      >
        <option value="">add a column</option>
        <optgroup label={names.table(table.name)}>
          {own.map((path) => (
            <option key={path} value={path}>
              {label(path)}
              {visible.includes(path) ? '' : ' (not shown to these roles)'}
            </option>
          ))}
        </optgroup>
        <optgroup label="through relations">
          {choices
            .filter((path) => !own.includes(path))
            .map((path) => (
              <option key={path} value={path}>
                {label(path)}
              </option>
            ))}
        </optgroup>
      </Select>
    </fieldset>
  );
}
