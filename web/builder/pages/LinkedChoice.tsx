import type { LinkedList } from '../../../core/definition/definition';
import type { ForRoles } from '../../../core/definition/section-kinds';
import { printPath } from '../../../core/definition/path';
import { findTable, isClosed, type Table } from '../../../core/table/catalogue';
import { titleColumns } from '../../../core/table/title';
import { useBench } from '../bench/bench-context';
import { useNames } from '../bench/names';
import { ColumnOrder } from '../columns/ColumnOrder';
import { AudienceChoice } from './AudienceChoice';
import { LinkedFiguresChoice } from './LinkedFiguresChoice';

/** Which records that point at a record stand on its sheet, and what is shown of them. */
export function LinkedChoice({
  table,
  of,
  linked,
  onChange,
}: {
  table: Table;
  /** Who may get the record at all. */
  of: ForRoles;
  linked: LinkedList[];
  onChange: (linked: LinkedList[]) => Promise<string | null>;
}) {
  const { catalogue, draft } = useBench();
  const names = useNames();
  const all = table.many ?? [];
  if (all.length === 0) return null;
  const change = (place: number, to: Partial<LinkedList>) =>
    onChange(
      linked.map((other, at) => {
        if (at !== place) return other;
        const { audience, as, figures, ...rest } = { ...other, ...to };
        return { ...rest, ...(as ? { as } : {}), ...(figures ? { figures } : {}), ...(audience ? { audience } : {}) };
      }),
    );
  const isOf = (each: LinkedList, many: (typeof all)[number]) =>
    each.table === many.table && each.column === printPath([many.column]);
  return (
    <fieldset className="grid gap-3">
      <legend className="text-sm font-semibold">Below it, records that belong to it</legend>
      <div className="flex flex-wrap gap-x-5">
        {all.map((many) => (
          <label key={many.name} className="inline-flex min-h-7 items-center gap-2">
            <input
              type="checkbox"
              checked={linked.some((each) => isOf(each, many))}
              onChange={(event) => {
                const child = findTable(catalogue, many.table);
                if (!event.target.checked) return void onChange(linked.filter((each) => !isOf(each, many)));
                const open = child?.columns.map(({ name }) => name).filter((name) => !isClosed(child, name)) ?? [];
                const titles = child ? titleColumns(child, draft.tables[child.name]?.titleColumn) : [];
                const others = open.filter((name) => name !== many.column && !child?.key.includes(name));
                const columns = [...new Set([...titles.slice(0, 1), ...others])]
                  .slice(0, 4)
                  .map((name) => printPath([name]));
                void onChange([...linked, { table: many.table, column: printPath([many.column]), columns }]);
              }}
            />{' '}
            {names.table(many.table)}
            {all.filter((each) => each.table === many.table).length > 1 && (
              <span className="text-soft">by {names.column(many.table, many.column)}</span>
            )}
          </label>
        ))}
      </div>
      {linked.map((each, i) => {
        const child = findTable(catalogue, each.table);
        return child ? (
          <div key={`${each.table} ${each.column}`} className="grid gap-2">
            <ColumnOrder
              title={`Of each of ${names.table(each.table)}`}
              table={child}
              visible={child.columns.map(({ name }) => name).filter((name) => !isClosed(child, name))}
              chosen={each.columns}
              onChange={(columns) => void change(i, { columns })}
            />
            <label className="inline-flex min-h-6 items-center gap-2">
              <input
                type="checkbox"
                checked={each.as === 'cards'}
                onChange={(event) => void change(i, { as: event.target.checked ? 'cards' : undefined })}
              />{' '}
              As cards
            </label>
            <LinkedFiguresChoice
              table={child}
              figures={each.figures ?? []}
              onChange={(figures) => void change(i, { figures: figures.length > 0 ? figures : undefined })}
            />
            <AudienceChoice
              title={`Who gets its ${names.tableInText(each.table)}`}
              name={`Who gets ${names.table(each.table)}`}
              of={of}
              audience={each.audience}
              onChange={(audience) => change(i, { audience })}
            />
          </div>
        ) : null;
      })}
    </fieldset>
  );
}
