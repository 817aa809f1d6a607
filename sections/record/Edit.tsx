import { findTable, type Table } from '../../core/table/catalogue';
import { useBench } from '../../web/builder/bench/bench-context';
import { ColumnOrder } from '../../web/builder/columns/ColumnOrder';
import { RowsChoice } from '../../web/builder/pages/RowsChoice';
import { SortChoice } from '../../web/builder/pages/SortChoice';
import { Notice } from '../../web/ui/Notice';
import type { EditProps } from '../edit';
import type { RecordSection } from './spec';

export const word = 'One record of';
export const called = (section: RecordSection) => `One record of ${section.table}`;
export const ofTable = true;
export const empty = (table: Table): Omit<RecordSection, 'id'> => ({
  kind: 'record',
  table: table.name,
  where: 'every row',
  sort: [],
});

/** Which record it is, and what it shows. */
export default function RecordEdit({ page, section, visible, onChange }: EditProps<'record'>) {
  const { catalogue, draft } = useBench();
  const table = findTable(catalogue, section.table);
  if (!table) return <Notice kind="fault">The database has no table {section.table} any more.</Notice>;
  const seen = visible(section.table);
  const { sheet } = section;
  return (
    <div className="grid gap-4">
      <RowsChoice
        label="The first of"
        name="Which record it is"
        table={table}
        where={section.where}
        onChange={(where) =>
          onChange(`Choose the record on ${page.title}`, (next) => {
            next.where = where;
          })
        }
      />
      <SortChoice
        table={table}
        sort={section.sort}
        columns={seen}
        onChange={(sort) =>
          void onChange(`Choose the record on ${page.title}`, (next) => {
            next.sort = sort;
          })
        }
      />
      <label className="inline-flex items-center gap-2 text-sm">
        <input
          type="checkbox"
          checked={sheet === undefined}
          onChange={(event) => {
            const shared = event.target.checked;
            const columns = draft.sheets[section.table]?.columns ?? seen;
            void onChange(`Arrange the record on ${page.title}`, (next) => {
              if (shared) delete next.sheet;
              else next.sheet = { columns: [...columns] };
            });
          }}
        />{' '}
        It looks as every {section.table} record does
      </label>
      {sheet && (
        <ColumnOrder
          title="What it shows"
          table={table}
          visible={seen}
          chosen={sheet.columns}
          onChange={(columns) =>
            void onChange(`Arrange the record on ${page.title}`, (next) => {
              next.sheet = { ...next.sheet, columns };
            })
          }
        />
      )}
    </div>
  );
}
