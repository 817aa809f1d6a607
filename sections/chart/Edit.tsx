import { kindOf } from '../../core/condition/operand-kind';
import { dateStepNames, type DateStep } from '../../core/dialect/dialect';
import { printPath } from '../../core/definition/path';
import { findColumn, findTable, type Table } from '../../core/table/catalogue';
import { titleColumns } from '../../core/table/title';
import { useBench } from '../../web/builder/bench/bench-context';
import { useNames } from '../../web/builder/bench/names';
import { NumberChoices } from '../../web/builder/pages/NumberChoices';
import { RowsChoice } from '../../web/builder/pages/RowsChoice';
import { Field } from '../../web/ui/Field';
import { Notice } from '../../web/ui/Notice';
import { Select } from '../../web/ui/Select';
import type { EditProps } from '../edit';
import { chartForms, type ChartForm, type ChartSection, type GroupedBy } from './spec';

export const word = 'Chart';
export const says = 'numbers by groups, as bars, lines, areas or shares';
export const called = (section: ChartSection) => `Chart of ${section.table}`;
export const ofTable = true;
export const empty = (table: Table, visible: string[]): Omit<ChartSection, 'id'> => {
  const seen = groupable(table, visible);
  // What divides records into few groups tells most at first sight.
  const first =
    table.columns.find(({ name, type }) => seen.includes(name) && (type === 'one choice' || type === 'yes/no'))?.name ??
    seen.find((name) => isDate(table, name)) ??
    seen[0] ??
    table.columns[0]!.name;
  return {
    kind: 'chart',
    table: table.name,
    form: 'bars',
    measure: 'count',
    by: groupedBy(table, first),
    where: 'every row',
  };
};

const isDate = (table: Table, column: string) =>
  ['date', 'date and time'].includes(findColumn(table, column)?.type ?? '');

const groupedBy = (table: Table, column: string): GroupedBy =>
  isDate(table, column) ? { column, step: 'month' } : { column };

/** Columns by which records can be put in groups. */
function groupable(table: Table, visible: string[]): string[] {
  return table.columns
    .filter((column) => visible.includes(column.name) && column.type !== 'several choices' && kindOf(column) !== 'none')
    .map(({ name }) => name);
}

const forms: Record<ChartForm, string> = {
  bars: 'bars',
  lines: 'lines',
  areas: 'areas, one on the other',
  shares: 'shares of a whole',
};

/** What is drawn, by what, and how. */
export default function ChartEdit({ page, section, visible, onChange }: EditProps<'chart'>) {
  const { catalogue } = useBench();
  const table = findTable(catalogue, section.table);
  if (!table) return <Notice kind="fault">The database has no table {section.table} any more.</Notice>;
  const seen = visible(section.table);
  const change = (recipe: (next: ChartSection) => void) => void onChange(`Set a chart of ${page.title}`, recipe);
  return (
    <div className="grid gap-4">
      <div className="flex flex-wrap items-end gap-3">
        <Field label="Drawn as">
          {(ids) => (
            <Select
              {...ids}
              value={section.form}
              onPick={(picked) =>
                change((next) => {
                  next.form = picked as ChartForm;
                  if (picked === 'shares') delete next.series;
                })
              }
            >
              {chartForms.map((each) => (
                <option key={each} value={each}>
                  {forms[each]}
                </option>
              ))}
            </Select>
          )}
        </Field>
        <NumberChoices page={page} table={table} seen={seen} section={section} change={change}>
          <GroupChoice
            label="For each"
            table={table}
            seen={seen}
            grouped={section.by}
            onChange={(by) =>
              change((next) => {
                next.by = by!;
              })
            }
          />
          {section.form !== 'shares' && (
            <GroupChoice
              label="Told apart by"
              table={table}
              seen={seen}
              grouped={section.series}
              none="nothing"
              onChange={(series) =>
                change((next) => {
                  if (series) next.series = series;
                  else delete next.series;
                })
              }
            />
          )}
          <LineChoice
            line={section.line}
            onChange={(line) =>
              change((next) => {
                if (line) next.line = line;
                else delete next.line;
              })
            }
          />
        </NumberChoices>
      </div>
      <RowsChoice
        label="Of what the person sees, draw"
        name="Filter of the chart"
        table={table}
        where={section.where}
        onChange={(where) =>
          onChange(`Narrow a chart of ${page.title}`, (next) => {
            next.where = where;
          })
        }
      />
    </div>
  );
}

/** A number that matters, drawn across. */
function LineChoice({
  line,
  onChange,
}: {
  line: ChartSection['line'];
  onChange: (line: ChartSection['line'] | null) => void;
}) {
  return (
    <>
      <Field label="Line across at" hint="Empty draws none">
        {(ids) => (
          <input
            className="field w-28"
            inputMode="decimal"
            {...ids}
            key={line?.at ?? ''}
            defaultValue={line?.at ?? ''}
            onBlur={(event) => {
              const typed = event.target.value.trim().replace(',', '.');
              if (typed === '') return void (line && onChange(null));
              const at = Number(typed);
              if (Number.isFinite(at) && at !== line?.at) onChange({ at, label: line?.label ?? `Limit ${typed}` });
            }}
          />
        )}
      </Field>
      {line && (
        <Field label="What it is">
          {(ids) => (
            <input
              className="field w-60"
              maxLength={80}
              {...ids}
              key={line.label}
              defaultValue={line.label}
              onBlur={(event) => {
                const label = event.target.value.trim();
                if (label !== '' && label !== line.label) onChange({ ...line, label });
              }}
            />
          )}
        </Field>
      )}
    </>
  );
}

/** A column to group by; of a date, by which step of the calendar. */
function GroupChoice({
  label,
  table,
  seen,
  grouped,
  none,
  onChange,
}: {
  label: string;
  table: Table;
  seen: string[];
  grouped: GroupedBy | undefined;
  /** The word for no column, where there may be none. */
  none?: string;
  onChange: (grouped: GroupedBy | null) => void;
}) {
  const { catalogue, draft } = useBench();
  const names = useNames();
  const own = groupable(table, seen);
  const further = table.relations.flatMap((relation) => {
    const target = findTable(catalogue, relation.table);
    const [title] = target ? titleColumns(target, draft.tables[relation.table]?.titleColumn) : [];
    return seen.includes(relation.column) && title !== undefined ? [printPath([relation.name, title])] : [];
  });
  const all = [...new Set([...own, ...further, ...(grouped ? [grouped.column] : [])])];
  return (
    <>
      <Field label={label}>
        {(ids) => (
          <Select
            {...ids}
            value={grouped?.column ?? ''}
            onPick={(picked) => onChange(picked === '' ? null : groupedBy(table, picked))}
          >
            {none !== undefined && <option value="">{none}</option>}
            {all.map((each) => (
              <option key={each} value={each}>
                {names.path(table.name, each)}
              </option>
            ))}
          </Select>
        )}
      </Field>
      {grouped && isDate(table, grouped.column) && (
        <Field label="in steps of">
          {(ids) => (
            <Select
              {...ids}
              value={grouped.step ?? ''}
              onPick={(picked) =>
                onChange({ column: grouped.column, ...(picked === '' ? {} : { step: picked as DateStep }) })
              }
            >
              <option value="">single values</option>
              {dateStepNames.map((each) => (
                <option key={each} value={each}>
                  a {each}
                </option>
              ))}
            </Select>
          )}
        </Field>
      )}
    </>
  );
}
