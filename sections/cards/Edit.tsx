import { OpensChoice } from '../../web/builder/pages/OpensChoice';
import { findTable, type Table } from '../../core/table/catalogue';
import { useBench } from '../../web/builder/bench/bench-context';
import { useNames } from '../../web/builder/bench/names';
import { ColumnOrder } from '../../web/builder/columns/ColumnOrder';
import { RecordButtons } from '../../web/builder/actions/RecordButtons';
import { RowsChoice } from '../../web/builder/pages/RowsChoice';
import { SortChoice } from '../../web/builder/pages/SortChoice';
import { Field } from '../../web/ui/Field';
import { Notice } from '../../web/ui/Notice';
import { Select } from '../../web/ui/Select';
import type { EditProps } from '../edit';
import type { CardsSection } from './spec';

export const word = 'Cards';
export const says = 'records as cards, with a picture and a few values';
export const called = (section: CardsSection) => `Cards of ${section.table}`;
export const ofTable = true;
export const empty = (table: Table, visible: string[]): Omit<CardsSection, 'id'> => {
  const [first] = pictures(table, visible);
  return {
    kind: 'cards',
    table: table.name,
    columns: (visible.length > 0 ? visible : [table.columns[0]!.name]).filter((name) => name !== first).slice(0, 4),
    ...(first === undefined ? {} : { picture: first }),
    across: 3,
    sort: [],
    where: 'every row',
  };
};

/** No column is called so. */
const ofFiles = ':files';

/** Columns that may hold a picture. */
const pictures = (table: Table, visible: string[]): string[] =>
  table.columns
    .filter(({ name, kind }) => visible.includes(name) && (kind === 'file' || kind === 'picture'))
    .map(({ name }) => name);

/** What stands on the cards, and how many beside each other. */
export default function CardsEdit({ page, section, visible, onChange }: EditProps<'cards'>) {
  const { catalogue } = useBench();
  const names = useNames();
  const table = findTable(catalogue, section.table);
  if (!table) return <Notice kind="fault">The database has no table {section.table} any more.</Notice>;
  const seen = visible(section.table);
  return (
    <div className="grid gap-4">
      <div className="flex flex-wrap items-end gap-3">
        <Field label="Picture">
          {(ids) => (
            <Select
              {...ids}
              value={section.pictureOfFiles ? ofFiles : (section.picture ?? '')}
              onPick={(picked) =>
                void onChange(`Choose the picture of cards on ${page.title}`, (next) => {
                  delete next.picture;
                  delete next.pictureOfFiles;
                  if (picked === ofFiles) next.pictureOfFiles = true;
                  else if (picked !== '') next.picture = picked;
                })
              }
            >
              <option value="">none</option>
              <option value={ofFiles}>the newest that hangs on the record</option>
              {[...new Set([...pictures(table, seen), ...(section.picture ? [section.picture] : [])])].map((column) => (
                <option key={column} value={column}>
                  {names.path(section.table, column)}
                </option>
              ))}
            </Select>
          )}
        </Field>
        <Field label="Side by side, where there is room">
          {(ids) => (
            <Select
              {...ids}
              value={String(section.across)}
              onPick={(picked) =>
                void onChange(`Set the cards on ${page.title}`, (next) => {
                  next.across = Number(picked) as CardsSection['across'];
                })
              }
            >
              {[1, 2, 3, 4].map((count) => (
                <option key={count} value={count}>
                  {count}
                </option>
              ))}
            </Select>
          )}
        </Field>
        <OpensChoice
          ways={['over', 'page'] as const}
          opens={section.opens}
          onPick={(opens) =>
            void onChange(`Say where a record of ${page.title} opens`, (next) => {
              if (opens) next.opens = opens;
              else delete next.opens;
            })
          }
        />
      </div>
      <ColumnOrder
        title="On a card, its title first"
        table={table}
        visible={seen}
        chosen={section.columns}
        onChange={(columns) =>
          columns.length > 0 &&
          void onChange(`Choose what stands on cards on ${page.title}`, (next) => {
            next.columns = columns;
          })
        }
      />
      <RecordButtons
        page={page}
        section={section.id}
        table={section.table}
        ticked={section.acts ?? []}
        onChange={(acts) =>
          void onChange(`Choose what stands on cards on ${page.title}`, (next) => {
            if (acts.length > 0) next.acts = acts;
            else delete next.acts;
          })
        }
      />
      <SortChoice
        table={table}
        sort={section.sort}
        columns={section.columns}
        onChange={(sort) =>
          void onChange(`Sort cards on ${page.title}`, (next) => {
            next.sort = sort;
          })
        }
      />
      <RowsChoice
        label="Of what the person sees, show"
        name="Filter of the cards"
        table={table}
        where={section.where}
        onChange={(where) =>
          onChange(`Narrow cards on ${page.title}`, (next) => {
            next.where = where;
          })
        }
      />
    </div>
  );
}
