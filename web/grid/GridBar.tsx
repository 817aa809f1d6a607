import { counted } from '../../core/text/counted';
import { lazy, Suspense, useState, type FormEvent, type ReactNode } from 'react';
import { Popover } from 'radix-ui';
import { ArrowDown, ArrowUp, Columns3, Download, ListFilter, Plus, X } from 'lucide-react';
import { describeCondition } from '../../core/condition/describe';
import { parseCondition } from '../../core/condition/parse';
import { printCondition } from '../../core/condition/print';
import type { Condition } from '../../core/condition/tree';
import type { ExportFormat, TableInfo } from '../client/grid';
import type { ColumnInfo } from '../client/portal';
import { Button } from '../ui/Button';

const AddFilter = lazy(() => import('./AddFilter'));
const popover = 'z-30 rounded-stone border border-line-strong bg-paper p-3 text-ink';

interface BarProps {
  info: TableInfo;
  all: ColumnInfo[];
  shown: ColumnInfo[];
  asked: { filter: string; search: string };
  total: number;
  loaded: number;
  onNarrow: (part: { filter?: string; search?: string }) => void;
  onShown: (paths: string[]) => void;
  onAdd: (() => void) | null;
  exporting: ((format: ExportFormat | 'xlsx', guard: boolean, whole: boolean) => ReactNode) | null;
}

/** What stands above the rows: search, filters, columns, a new record, export. */
export function GridBar({ info, all, shown, asked, total, loaded, onNarrow, onShown, onAdd, exporting }: BarProps) {
  const [typed, setTyped] = useState(asked.search);
  const parts = partsOf(asked.filter);
  const setParts = (next: Condition[]) =>
    onNarrow({
      filter: next.length === 0 ? '' : printCondition(next.length === 1 ? next[0]! : { kind: 'all', parts: next }),
    });
  const naming = (path: string[]) => all.find((column) => column.path === path.join('.'))?.label ?? path.join(' ');
  const search = (event: FormEvent) => {
    event.preventDefault();
    onNarrow({ search: typed.trim() });
  };
  return (
    <div className="flex flex-wrap items-center gap-2 px-3 py-2">
      <form role="search" onSubmit={search} className="max-w-64 flex-1 basis-40">
        <input
          data-find
          type="search"
          className="field"
          aria-label={`Find in ${info.table}`}
          placeholder={`Find in ${info.table}`}
          value={typed}
          maxLength={200}
          onChange={(event) => {
            setTyped(event.target.value);
            if (event.target.value === '' && asked.search) onNarrow({ search: '' });
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
            onClick={() => setParts(parts.filter((_, j) => j !== i))}
          >
            <X size={14} aria-hidden />
          </button>
        </span>
      ))}
      <FilterButton
        columns={all.filter((column) => column.asked && !['several choices', 'time', 'other'].includes(column.type))}
        onAdd={(part) => setParts([...parts, part])}
      />
      <ColumnChoice all={all} shown={shown} onShown={onShown} />
      {exporting && <ExportChoice exporting={exporting} />}
      {onAdd && (
        <Button onClick={onAdd}>
          <Plus size={15} aria-hidden /> Record
        </Button>
      )}
      <span className="ml-auto text-sm text-soft whitespace-nowrap">
        {loaded < total ? `${loaded.toLocaleString()} of ` : ''}
        {counted(total, 'row')}
      </span>
    </div>
  );
}

function partsOf(filter: string): Condition[] {
  if (filter === '') return [];
  const { condition } = parseCondition(filter);
  return condition.kind === 'all' ? condition.parts : [condition];
}

function FilterButton({ columns, onAdd }: { columns: ColumnInfo[]; onAdd: (part: Condition) => void }) {
  const [wanted, setWanted] = useState(false);
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

/** Which columns stand there, and in which order; those of related records too. */
function ColumnChoice({
  all,
  shown,
  onShown,
}: {
  all: ColumnInfo[];
  shown: ColumnInfo[];
  onShown: (paths: string[]) => void;
}) {
  const paths = shown.map((column) => column.path);
  const move = (i: number, by: number) => {
    const next = [...paths];
    const [path] = next.splice(i, 1);
    next.splice(i + by, 0, path!);
    onShown(next);
  };
  return (
    <Popover.Root>
      <Popover.Trigger asChild>
        <Button>
          <Columns3 size={15} aria-hidden /> Columns
        </Button>
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content
          align="start"
          sideOffset={4}
          collisionPadding={8}
          className={`${popover} max-h-120 w-80 overflow-y-auto`}
          aria-label="Columns"
        >
          <ul className="grid gap-0.5">
            {shown.map((column, i) => (
              <li key={column.path} className="flex items-center gap-1">
                <label className="flex min-w-0 flex-1 items-center gap-2">
                  <input
                    type="checkbox"
                    checked
                    disabled={paths.length === 1}
                    onChange={() => onShown(paths.filter((path) => path !== column.path))}
                  />
                  <span className="truncate">{column.label}</span>
                </label>
                <button
                  type="button"
                  aria-label={`${column.label} further left`}
                  disabled={i === 0}
                  className="p-1 text-soft hover:text-ink disabled:opacity-30"
                  onClick={() => move(i, -1)}
                >
                  <ArrowUp size={14} aria-hidden />
                </button>
                <button
                  type="button"
                  aria-label={`${column.label} further right`}
                  disabled={i === shown.length - 1}
                  className="p-1 text-soft hover:text-ink disabled:opacity-30"
                  onClick={() => move(i, 1)}
                >
                  <ArrowDown size={14} aria-hidden />
                </button>
              </li>
            ))}
          </ul>
          {all.some((column) => !paths.includes(column.path)) && (
            <h3 className="mt-2 mb-1 border-t border-line pt-2 text-sm">Not shown</h3>
          )}
          <ul className="grid gap-0.5">
            {all
              .filter((column) => !paths.includes(column.path))
              .map((column) => (
                <li key={column.path}>
                  <label className="flex items-center gap-2">
                    <input type="checkbox" checked={false} onChange={() => onShown([...paths, column.path])} />
                    <span className="truncate">{column.label}</span>
                  </label>
                </li>
              ))}
          </ul>
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}

const formats = [
  ['csv', 'CSV'],
  ['xlsx', 'Spreadsheet (XLSX)'],
  ['json', 'JSON'],
  ['jsonl', 'JSON Lines'],
] as const;

function ExportChoice({ exporting }: { exporting: NonNullable<BarProps['exporting']> }) {
  const [format, setFormat] = useState<ExportFormat | 'xlsx'>('csv');
  const [guard, setGuard] = useState(true);
  const [whole, setWhole] = useState(false);
  return (
    <Popover.Root>
      <Popover.Trigger asChild>
        <Button>
          <Download size={15} aria-hidden /> Export
        </Button>
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content
          align="start"
          sideOffset={4}
          collisionPadding={8}
          className={`${popover} grid w-80 gap-3`}
          aria-label="Export"
        >
          <fieldset className="grid gap-1">
            <legend className="text-sm font-semibold">As</legend>
            {formats.map(([value, word]) => (
              <label key={value} className="flex items-center gap-2">
                <input type="radio" name="format" checked={format === value} onChange={() => setFormat(value)} /> {word}
              </label>
            ))}
          </fieldset>
          <fieldset className="grid gap-1">
            <legend className="text-sm font-semibold">Columns</legend>
            <label className="flex items-center gap-2">
              <input type="radio" name="whole" checked={!whole} onChange={() => setWhole(false)} /> those that are shown
            </label>
            <label className="flex items-center gap-2">
              <input type="radio" name="whole" checked={whole} onChange={() => setWhole(true)} /> all of the table
            </label>
          </fieldset>
          {format === 'csv' && (
            <label className="flex items-start gap-2">
              <input
                type="checkbox"
                className="mt-1"
                checked={guard}
                onChange={(event) => setGuard(event.target.checked)}
              />
              <span>Put an apostrophe before text that a spreadsheet would take for a formula</span>
            </label>
          )}
          {exporting(format, guard, whole)}
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}
