import { useState } from 'react';
import { Plus, SlidersHorizontal, X } from 'lucide-react';
import { plainList, useListState } from '../../web/place/place';
import { ColumnTicks } from '../../web/records/ColumnTicks';
import { Button } from '../../web/ui/Button';
import { Popover } from '../../web/ui/Popover';
import { Select } from '../../web/ui/Select';
import type { ShowProps } from '../show';
import { useAsLeft, type Left } from './as-left';
import { measured, stepped, widthsIn, widthsText } from './widths';
import { ChartChoice } from './ChartChoice';
import { columnsOf, offeredColumns, sortText, termsOf, type SortTerm } from './arranged';

const mostTerms = 3;

const arrangedAs = ({ columns, sort, widths, chart }: Arranged) => JSON.stringify([columns, sort, widths, chart]);

type Arranged = Left;

/** How the list is arranged for whoever looks: its columns and its order. It opens at once. */
export default function Arrange({ section }: ShowProps<'list'>) {
  const [open, setOpen] = useState(true);
  const { state: now, turn } = useListState(section.id);
  const { keep } = useAsLeft(section.id);
  // Of two presses in quick succession the second comes before the address has the first.
  const [ahead, setAhead] = useState<Arranged | null>(null);
  if (ahead !== null && arrangedAs(ahead) === arrangedAs(now)) setAhead(null);
  const state = { ...now, ...ahead };
  const arrange = (change: Partial<Arranged>) => {
    const { columns, sort: order, widths, chart } = state;
    const next = { columns, sort: order, widths, chart, ...change };
    setAhead(next);
    keep(next);
    turn(change.sort === undefined ? next : { ...next, after: '', before: '' });
  };
  const offered = offeredColumns(section);
  const shown = columnsOf(section, state.columns).map(({ path }) => path);
  const own = section.columns.map(({ path }) => path);
  const terms = termsOf(section, state);
  const sort = (next: SortTerm[]) => arrange({ sort: sortText(next) });
  const sortable = offered.filter((column) => column.sortable);
  const free = sortable.find(({ path }) => !terms.some(({ column }) => column === path));
  const called = (path: string) => offered.find((column) => column.path === path)?.label ?? path;
  return (
    <Popover
      label="Columns, order and chart"
      align="end"
      open={open}
      onOpenChange={setOpen}
      className="grid max-h-[min(40rem,var(--radix-popover-content-available-height))] w-84 gap-3 overflow-y-auto"
      trigger={
        <Button>
          <SlidersHorizontal size={15} aria-hidden /> Arrange
        </Button>
      }
    >
      <section aria-label="Columns">
        <h2 className="mb-1 text-sm">Columns</h2>
        <ColumnTicks
          all={offered}
          shown={shown}
          onShown={(next) => arrange({ columns: next.join() === own.join() ? '' : next.join(',') })}
          onWidth={(path, by) =>
            arrange({ widths: widthsText(stepped(widthsIn(state.widths) ?? measured(section.id), path, by)) })
          }
        />
      </section>
      {sortable.length > 0 && (
        <section aria-label="Order" className="grid gap-1.5 border-t border-line pt-2">
          <h2 className="text-sm">Order</h2>
          {terms.map((term, i) => {
            const change = (to: Partial<SortTerm>) =>
              sort(terms.map((each, j) => (j === i ? { ...each, ...to } : each)));
            return (
              <div key={term.column} className="flex items-center gap-1">
                <Select
                  aria-label={i === 0 ? 'Sorted by' : 'Then by'}
                  className="min-w-0 flex-1"
                  value={term.column}
                  onPick={(column) => change({ column })}
                >
                  {!sortable.some(({ path }) => path === term.column) && (
                    <option value={term.column}>{called(term.column)}</option>
                  )}
                  {sortable
                    .filter(({ path }) => path === term.column || !terms.some(({ column }) => column === path))
                    .map(({ path, label }) => (
                      <option key={path} value={path}>
                        {label}
                      </option>
                    ))}
                </Select>
                <Select
                  aria-label={`Direction of ${called(term.column)}`}
                  className="w-auto"
                  value={term.descending ? 'down' : 'up'}
                  onPick={(picked) => change({ descending: picked === 'down' })}
                >
                  <option value="up">rising</option>
                  <option value="down">falling</option>
                </Select>
                <button
                  type="button"
                  aria-label={`Not by ${called(term.column)}`}
                  className="grid size-8 place-items-center text-soft hover:text-ink"
                  onClick={() => sort(terms.filter((each) => each !== term))}
                >
                  <X size={14} aria-hidden />
                </button>
              </div>
            );
          })}
          {terms.length < mostTerms && free && (
            <Button
              small
              className="justify-self-start"
              onClick={() => sort([...terms, { column: free.path, descending: false }])}
            >
              <Plus size={14} aria-hidden /> {terms.length === 0 ? 'Sort by a column' : 'Then by'}
            </Button>
          )}
        </section>
      )}
      <ChartChoice columns={offered} chart={state.chart} onChart={(chart) => arrange({ chart })} />
      {arrangedAs(state) !== arrangedAs(plainList) && (
        <Button
          small
          className="justify-self-start"
          onClick={() => arrange({ columns: '', sort: '', widths: '', chart: '' })}
        >
          As it came
        </Button>
      )}
    </Popover>
  );
}
