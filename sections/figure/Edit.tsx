import { findTable, type Table } from '../../core/table/catalogue';
import type { RowFilter } from '../../core/definition/definition';
import { useBench } from '../../web/builder/bench/bench-context';
import { NumberChoices } from '../../web/builder/pages/NumberChoices';
import { RowsChoice } from '../../web/builder/pages/RowsChoice';
import { Field } from '../../web/ui/Field';
import { Notice } from '../../web/ui/Notice';
import type { EditProps } from '../edit';
import type { FigureSection } from './spec';

export const word = 'Figure';
export const says = 'one number over what somebody sees';
export const called = (section: FigureSection) => `Figure of ${section.table}`;
export const ofTable = true;
export const empty = (table: Table): Omit<FigureSection, 'id'> => ({
  kind: 'figure',
  table: table.name,
  measure: 'count',
  where: 'every row',
});

/** What is reckoned, of which records, and what it is held against. */
export default function FigureEdit({ page, section, visible, onChange }: EditProps<'figure'>) {
  const { catalogue } = useBench();
  const table = findTable(catalogue, section.table);
  if (!table) return <Notice kind="fault">The database has no table {section.table} any more.</Notice>;
  const seen = visible(section.table);
  return (
    <div className="grid gap-4">
      <div className="flex flex-wrap items-end gap-3">
        <NumberChoices
          page={page}
          table={table}
          seen={seen}
          section={section}
          change={(recipe) => void onChange(`Set a figure of ${page.title}`, recipe)}
        />
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
