import { findTable, type Table } from '../../core/table/catalogue';
import { useBench } from '../../web/builder/bench/bench-context';
import { RowsChoice } from '../../web/builder/pages/RowsChoice';
import { SheetChoice } from '../../web/builder/pages/SheetChoice';
import { SortChoice } from '../../web/builder/pages/SortChoice';
import { Notice } from '../../web/ui/Notice';
import type { EditProps } from '../edit';
import type { RecordSection } from './spec';

export const word = 'One record';
export const says = 'a single record, like the member’s own row';
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
  const { catalogue } = useBench();
  const table = findTable(catalogue, section.table);
  if (!table) return <Notice kind="fault">The database has no table {section.table} any more.</Notice>;
  const seen = visible(section.table);
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
      <SheetChoice
        label={(of) => `It looks as every record of ${of} does`}
        title="What it shows"
        table={table}
        seen={seen}
        of={page.audience.roles}
        sheet={section.sheet}
        onChange={(sheet) =>
          onChange(`Arrange the record on ${page.title}`, (next) => {
            if (sheet) next.sheet = sheet;
            else delete next.sheet;
          })
        }
      />
    </div>
  );
}
