import { lazy, Suspense, useState, type FormEvent } from 'react';
import { ListFilter, Search, X } from 'lucide-react';
import { describeCondition } from '../../core/condition/describe';
import { parseCondition } from '../../core/condition/parse';
import { printCondition } from '../../core/condition/print';
import type { Condition } from '../../core/condition/tree';
import { readPath } from '../../core/definition/path';
import { Button } from '../../web/ui/Button';
import type { ColumnInfo } from '../../web/client/portal';
import { useListState } from '../../web/place/place';

const AddFilter = lazy(() => import('../../web/grid/AddFilter'));

/** The conditions of a filter's text, each shown as a chip; a broken text gives none. */
function filterParts(text: string): Condition[] {
  if (text.trim() === '') return [];
  try {
    const { condition } = parseCondition(text);
    return condition.kind === 'all' ? condition.parts : [condition];
  } catch {
    return [];
  }
}

function filterText(parts: Condition[]): string {
  return parts.length === 0 ? '' : printCondition(parts.length === 1 ? parts[0]! : { kind: 'all', parts });
}

/** Search, the conditions that narrow the list, and a way to add one. */
export function FilterBar({ section, columns, noun }: { section: string; columns: ColumnInfo[]; noun: string }) {
  const { state, narrow } = useListState(section);
  const [typed, setTyped] = useState(state.search);
  const parts = filterParts(state.filter);
  const naming = (path: string[]) =>
    columns.find((column) => readPath(column.path)?.join('.') === path.join('.'))?.label ?? path.join(' ');
  const search = (event: FormEvent) => {
    event.preventDefault();
    narrow({ search: typed.trim() });
  };
  return (
    <div className="flex flex-wrap items-center gap-2">
      <form role="search" onSubmit={search} className="relative min-w-40 flex-1 basis-48 max-w-72">
        <Search size={15} aria-hidden className="absolute left-2 top-1/2 -translate-y-1/2 text-soft" />
        <input
          type="search"
          aria-label={`Find in ${noun}`}
          placeholder={`Find in ${noun}`}
          className="field pl-7"
          value={typed}
          maxLength={200}
          onChange={(event) => {
            setTyped(event.target.value);
            if (event.target.value === '' && state.search) narrow({ search: '' });
          }}
        />
      </form>
      {parts.map((part, i) => (
        <span key={i} className="inline-flex items-center rounded-stone border border-water bg-water-wash text-sm">
          <span className="px-2 py-1">{describeCondition(part, naming)}</span>
          <button
            type="button"
            aria-label={`Remove: ${describeCondition(part, naming)}`}
            className="min-h-8 px-2 hover:bg-sunk"
            onClick={() => narrow({ filter: filterText(parts.filter((_, j) => j !== i)) })}
          >
            <X size={14} aria-hidden />
          </button>
        </span>
      ))}
      <FilterButton
        columns={columns.filter(
          (column) =>
            column.asked && column.type !== 'several choices' && column.type !== 'time' && column.type !== 'other',
        )}
        onAdd={(part) => narrow({ filter: filterText([...parts, part]) })}
      />
    </div>
  );
}

/** The chooser of filters comes with the first press: most visits never filter. */
function FilterButton({ columns, onAdd }: { columns: ColumnInfo[]; onAdd: (part: Condition) => void }) {
  const [wanted, setWanted] = useState(false);
  if (columns.length === 0) return null;
  const button = (
    <Button onClick={() => setWanted(true)}>
      <ListFilter size={15} aria-hidden /> Filter
    </Button>
  );
  return wanted ? (
    <Suspense fallback={button}>
      <AddFilter columns={columns} onAdd={onAdd} />
    </Suspense>
  ) : (
    button
  );
}
