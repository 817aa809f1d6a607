import { counted } from '../../core/text/counted';
import { useState, type ReactNode } from 'react';
import { Columns3, Download, Plus } from 'lucide-react';
import type { ExportFormat, TableInfo } from '../client/grid';
import type { ColumnInfo } from '../client/portal';
import { FilterBar } from '../records/FilterBar';
import { Button } from '../ui/Button';
import { Popover } from '../ui/Popover';
import { ColumnTicks } from '../records/ColumnTicks';

interface BarProps {
  base: string;
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
export function GridBar({
  base,
  info,
  all,
  shown,
  asked,
  total,
  loaded,
  onNarrow,
  onShown,
  onAdd,
  exporting,
}: BarProps) {
  return (
    <div className="flex flex-wrap items-center gap-2 px-3 py-2">
      <FilterBar
        base={base}
        table={info.table}
        columns={all}
        noun={info.table}
        search={asked.search}
        filter={asked.filter}
        onNarrow={onNarrow}
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
  return (
    <Popover
      label="Columns"
      className="max-h-120 w-80 overflow-y-auto"
      trigger={
        <Button>
          <Columns3 size={15} aria-hidden /> Columns
        </Button>
      }
    >
      <ColumnTicks all={all} shown={paths} onShown={onShown} />
    </Popover>
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
    <Popover
      label="Export"
      className="grid w-80 gap-3"
      trigger={
        <Button>
          <Download size={15} aria-hidden /> Export
        </Button>
      }
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
    </Popover>
  );
}
