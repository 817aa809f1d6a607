import { kindOf } from '../../core/condition/operand-kind';
import { findTable, type Column, type Table } from '../../core/table/catalogue';
import type { RowFilter } from '../../core/definition/definition';
import { useBench } from '../../web/builder/bench/bench-context';
import { useNames } from '../../web/builder/bench/names';
import { RowsChoice } from '../../web/builder/pages/RowsChoice';
import { Field } from '../../web/ui/Field';
import { Notice } from '../../web/ui/Notice';
import { Select } from '../../web/ui/Select';
import type { EditProps } from '../edit';
import { figureMeasures, type FigureMeasure, type FigureSection } from './spec';

export const word = 'Count';
export const called = (section: FigureSection) => `Figure of ${section.table}`;
export const ofTable = true;
export const empty = (table: Table): Omit<FigureSection, 'id'> => ({
  kind: 'figure',
  table: table.name,
  measure: 'count',
  where: 'every row',
});

const words: Record<FigureMeasure, string> = {
  count: 'how many there are',
  sum: 'the sum of',
  average: 'the average of',
  minimum: 'the least of',
  maximum: 'the most of',
  distinct: 'how many different values has',
};
const numbers: readonly ReturnType<typeof kindOf>[] = ['whole', 'decimal', 'double'];
const unordered: readonly ReturnType<typeof kindOf>[] = ['none', 'choice', 'truth'];

/** Whether a measure can be reckoned of a column. */
function fits(measure: FigureMeasure, column: Column): boolean {
  const kind = kindOf(column);
  if (measure === 'sum' || measure === 'average') return numbers.includes(kind);
  return measure === 'distinct' || (!column.equalityOnly && !unordered.includes(kind));
}

/** What is reckoned, of which records, and what it is held against. */
export default function FigureEdit({ page, section, visible, onChange }: EditProps<'figure'>) {
  const { catalogue } = useBench();
  const names = useNames();
  const table = findTable(catalogue, section.table);
  if (!table) return <Notice kind="fault">The database has no table {section.table} any more.</Notice>;
  const seen = visible(section.table);
  const columns = (measure: FigureMeasure) =>
    table.columns.filter((column) => seen.includes(column.name) && fits(measure, column)).map(({ name }) => name);
  const change = (recipe: (next: FigureSection) => void) => void onChange(`Set a figure of ${page.title}`, recipe);
  const pick = (measure: FigureMeasure) =>
    change((next) => {
      next.measure = measure;
      if (measure === 'count') delete next.column;
      else if (next.column === undefined || !columns(measure).includes(next.column)) next.column = columns(measure)[0]!;
    });
  return (
    <div className="grid gap-4">
      <div className="flex flex-wrap items-end gap-3">
        <Field label="It says">
          {(ids) => (
            <Select {...ids} value={section.measure} onPick={(picked) => pick(picked as FigureMeasure)}>
              {figureMeasures.map((measure) => (
                <option key={measure} value={measure} disabled={measure !== 'count' && columns(measure).length === 0}>
                  {words[measure]}
                </option>
              ))}
            </Select>
          )}
        </Field>
        {section.column !== undefined && (
          <Field label="Column">
            {(ids) => (
              <Select
                {...ids}
                value={section.column!}
                onPick={(picked) =>
                  change((next) => {
                    next.column = picked;
                  })
                }
              >
                {columns(section.measure).map((column) => (
                  <option key={column} value={column}>
                    {names.column(section.table, column)}
                  </option>
                ))}
              </Select>
            )}
          </Field>
        )}
        <Field label="Told from so many records on" hint="Empty tells all">
          {(ids) => (
            <input
              className="field w-28"
              type="number"
              min={2}
              {...ids}
              key={section.smallestGroup ?? 0}
              defaultValue={section.smallestGroup ?? ''}
              onBlur={(event) => {
                const least = Math.trunc(window.Number(event.target.value));
                change((next) => {
                  if (least >= 2) next.smallestGroup = least;
                  else delete next.smallestGroup;
                });
              }}
            />
          )}
        </Field>
      </div>
      <RowsChoice
        label="Of what the person sees, reckon with"
        name="Filter of the figure"
        table={table}
        where={section.where}
        onChange={(where) =>
          onChange(`Narrow a figure of ${page.title}`, (next) => {
            next.where = where;
          })
        }
      />
      <Against section={section} table={table} onChange={onChange} />
    </div>
  );
}

function Against({
  section: { against },
  table,
  onChange,
}: {
  section: FigureSection;
  table: Table;
  onChange: EditProps<'figure'>['onChange'];
}) {
  const set = (next: { label: string; where: RowFilter } | undefined) =>
    onChange('Hold a figure against others', (section) => {
      if (next) section.against = next;
      else delete section.against;
    });
  return (
    <div className="grid gap-2">
      <label className="flex items-center gap-2">
        <input
          type="checkbox"
          checked={against !== undefined}
          onChange={(event) => void set(event.target.checked ? { label: 'before', where: 'every row' } : undefined)}
        />
        Beside it stands the same of other records
      </label>
      {against && (
        <>
          <Field label="What those are called" hint="Stands after the number: “last month”">
            {(ids) => (
              <input
                className="field w-60"
                maxLength={80}
                {...ids}
                key={against.label}
                defaultValue={against.label}
                onBlur={(event) => {
                  const label = event.target.value.trim();
                  if (label !== '' && label !== against.label) void set({ ...against, label });
                }}
              />
            )}
          </Field>
          <RowsChoice
            label="Those are"
            name="Filter of the others"
            table={table}
            where={against.where}
            onChange={(where) => set({ ...against, where })}
          />
        </>
      )}
    </div>
  );
}
