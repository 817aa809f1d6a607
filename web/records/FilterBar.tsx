import { lazy, Suspense, useState, type FormEvent } from 'react';
import { ListFilter, Search, X } from 'lucide-react';
import { describeCondition, type Naming } from '../../core/condition/describe';
import { parseCondition } from '../../core/condition/parse';
import { printCondition, printOperand } from '../../core/condition/print';
import type { Condition } from '../../core/condition/tree';
import { readPath } from '../../core/definition/path';
import type { ColumnInfo } from '../client/portal';
import { Button } from '../ui/Button';
import { labelOf } from './options';

/** The chooser of filters comes with the first press: most visits never filter. */
const AddFilter = lazy(() => import('./AddFilter'));

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

/** Search, the conditions that narrow what is listed, and a way to add one. */
export function FilterBar({
  base,
  table,
  columns,
  noun,
  search,
  filter,
  onNarrow,
}: {
  base: string;
  table: string;
  columns: ColumnInfo[];
  noun: string;
  search: string;
  filter: string;
  onNarrow: (change: { search?: string; filter?: string }) => void;
}) {
  const [typed, setTyped] = useState(search);
  const [given, setGiven] = useState(search);
  // A kept view, or a step back, looks for something else.
  if (given !== search) {
    setGiven(search);
    setTyped(search);
  }
  const [wanted, setWanted] = useState(false);
  const parts = filterParts(filter);
  const at = (path: string[]) => columns.find((column) => readPath(column.path)?.join('.') === path.join('.'));
  const naming: Naming = {
    path: (path) => at(path)?.label ?? path.join(' '),
    value: (path, text) => labelOf(at(path)?.labels, text),
    member: (fact) => {
      const own = printOperand({ kind: 'member', fact });
      return columns.find((column) => column.own?.value === own)?.own?.said ?? 'your own';
    },
  };
  const find = (event: FormEvent) => {
    event.preventDefault();
    onNarrow({ search: typed.trim() });
  };
  const filtered = columns.filter(
    (column) => column.asked && column.type !== 'several choices' && column.type !== 'time' && column.type !== 'other',
  );
  const button = (
    <Button onClick={() => setWanted(true)}>
      <ListFilter size={15} aria-hidden /> Filter
    </Button>
  );
  return (
    <>
      <form role="search" onSubmit={find} className="relative min-w-40 max-w-72 flex-1 basis-48">
        <Search size={15} aria-hidden className="absolute left-2 top-1/2 -translate-y-1/2 text-soft" />
        <input
          data-find
          type="search"
          aria-label={`Find in ${noun}`}
          placeholder={`Find in ${noun}`}
          className="field pl-7"
          value={typed}
          maxLength={200}
          onChange={(event) => {
            setTyped(event.target.value);
            if (event.target.value === '' && search) onNarrow({ search: '' });
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
            onClick={() => onNarrow({ filter: filterText(parts.filter((_, j) => j !== i)) })}
          >
            <X size={14} aria-hidden />
          </button>
        </span>
      ))}
      {filtered.length > 0 &&
        (wanted ? (
          <Suspense fallback={button}>
            <AddFilter
              base={base}
              table={table}
              columns={filtered}
              onAdd={(part) => onNarrow({ filter: filterText([...parts, part]) })}
            />
          </Suspense>
        ) : (
          button
        ))}
    </>
  );
}
