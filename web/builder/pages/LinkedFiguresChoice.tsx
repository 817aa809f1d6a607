import { X } from 'lucide-react';
import type { LinkedFigure } from '../../../core/definition/definition';
import { fitsMeasure, type FigureMeasure } from '../../../core/definition/figure-measures';
import { printPath, readPath } from '../../../core/definition/path';
import { findColumn, isClosed, type Column, type Table } from '../../../core/table/catalogue';
import { measureWords } from '../../records/numbers';
import { Select } from '../../ui/Select';
import { useNames } from '../bench/names';

const mostFigures = 4;
const offered: readonly FigureMeasure[] = ['sum', 'average', 'minimum', 'maximum'];

/** Which numbers over linked records stand above them. */
export function LinkedFiguresChoice({
  table,
  figures,
  onChange,
}: {
  table: Table;
  figures: LinkedFigure[];
  onChange: (figures: LinkedFigure[]) => void;
}) {
  const names = useNames();
  const called = ({ measure, column }: LinkedFigure) => {
    const type = findColumn(table, readPath(column)?.[0] ?? column)?.type ?? 'other';
    return measureWords(measure, { type, label: names.path(table.name, column) });
  };
  const isText = ({ type }: Column) => type === 'text' || type === 'long text';
  const columns = table.columns.filter(
    (column) => !isClosed(table, column.name) && !isText(column) && !table.key.includes(column.name),
  );
  const related = table.relations.map(({ column }) => column);
  const choices = columns
    .filter(({ name }) => !related.includes(name))
    .flatMap((column) =>
      offered
        .filter((measure) => fitsMeasure(measure, column))
        .map((measure): LinkedFigure => ({ measure, column: printPath([column.name]) })),
    )
    .filter((each) => !figures.some(({ measure, column }) => measure === each.measure && column === each.column));
  if (choices.length + figures.length === 0) return null;
  return (
    <fieldset>
      <legend className="text-sm font-semibold">Numbers above them</legend>
      <ul className="flex flex-wrap gap-2">
        {figures.map((figure) => (
          <li key={called(figure)} className="inline-flex items-center rounded-stone border border-line text-sm">
            <span className="px-2">{called(figure)}</span>
            <button
              type="button"
              className="grid size-7 place-items-center hover:bg-sunk"
              aria-label={`Take out ${called(figure)}`}
              onClick={() => onChange(figures.filter((each) => each !== figure))}
            >
              <X size={14} aria-hidden />
            </button>
          </li>
        ))}
      </ul>
      {figures.length < mostFigures && choices.length > 0 && (
        <Select
          className="mt-1"
          aria-label={`Add a number of ${names.table(table.name)}`}
          value=""
          onPick={(picked) => {
            const choice = choices[Number(picked)];
            if (picked !== '' && choice) onChange([...figures, choice]);
          }}
        >
          <option value="">add a number</option>
          {choices.map((choice, i) => (
            <option key={called(choice)} value={i}>
              {called(choice)}
            </option>
          ))}
        </Select>
      )}
    </fieldset>
  );
}
