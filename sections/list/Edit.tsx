import { findColumn, findTable, type Table } from '../../core/table/catalogue';
import { useBench } from '../../web/builder/bench/bench-context';
import { useNames } from '../../web/builder/bench/names';
import { RecordButtons } from '../../web/builder/actions/RecordButtons';
import { RowsChoice } from '../../web/builder/pages/RowsChoice';
import { ColumnOrder } from '../../web/builder/columns/ColumnOrder';
import { Select } from '../../web/ui/Select';
import { Field } from '../../web/ui/Field';
import { Notice } from '../../web/ui/Notice';
import type { EditProps } from '../edit';
import { SheetChoice } from '../../web/builder/pages/SheetChoice';
import { MarksChoice } from '../../web/builder/pages/MarksChoice';
import { TabsChoice } from '../../web/builder/pages/TabsChoice';
import { RoleTicks } from '../../web/builder/access/RoleTicks';
import { SortChoice } from '../../web/builder/pages/SortChoice';
import { OpensChoice } from '../../web/builder/pages/OpensChoice';
import { waysToOpen } from '../../core/definition/section-kinds';
import { listActs, listSizes, usualSize, type ListAct, type ListSection } from './spec';

export const word = 'List';
export const says = 'records in a table, to find, open and change';
export const called = (section: ListSection) => `List of ${section.table}`;
export const ofTable = true;
export const empty = (table: Table, visible: string[]): Omit<ListSection, 'id'> => ({
  kind: 'list',
  table: table.name,
  columns: visible.slice(0, 5),
  sort: [],
  where: 'every row',
});

/** What a list shows and in which order; how its records look is their table's sheet. */
export default function ListEdit({ page, section, visible, onChange }: EditProps<'list'>) {
  const { catalogue } = useBench();
  const names = useNames();
  const table = findTable(catalogue, section.table);
  if (!table) return <Notice kind="fault">The database has no table {section.table} any more.</Notice>;
  const seen = visible(section.table);
  return (
    <>
      <ColumnOrder
        title="Columns of the list"
        table={table}
        visible={seen}
        chosen={section.columns}
        headings={section.headings ?? {}}
        onHeading={(path, heading) =>
          void onChange(`Name a column of ${page.title}`, (next) => {
            const { [path]: _was, ...rest } = next.headings ?? {};
            next.headings = heading === '' ? rest : { ...rest, [path]: heading };
            if (Object.keys(next.headings).length === 0) delete next.headings;
          })
        }
        onChange={(columns) =>
          void onChange(`Choose the columns of ${page.title}`, (next) => {
            next.columns = columns;
          })
        }
      />
      <SheetChoice
        label={(of) => `A record opened from here looks as every record of ${of} does`}
        title="On a record opened from here"
        table={table}
        seen={seen}
        of={page.audience.roles}
        sheet={section.sheet}
        onChange={(sheet) =>
          onChange(`Arrange the record page of ${page.title}`, (next) => {
            if (sheet) next.sheet = sheet;
            else delete next.sheet;
          })
        }
      />
      <div className="flex flex-wrap items-end gap-3">
        <OpensChoice
          ways={waysToOpen}
          opens={section.opens}
          onPick={(opens) =>
            void onChange(`Say where a record of ${page.title} opens`, (next) => {
              if (opens) next.opens = opens;
              else delete next.opens;
            })
          }
        />
        <Field label="Records at once">
          {(ids) => (
            <Select
              {...ids}
              className="w-24"
              value={String(section.size ?? usualSize)}
              onPick={(picked) =>
                void onChange(`Set how many ${page.title} lists at once`, (next) => {
                  const size = listSizes.find((each) => String(each) === picked);
                  if (size && size !== usualSize) next.size = size;
                  else delete next.size;
                })
              }
            >
              {listSizes.map((size) => (
                <option key={size} value={size}>
                  {size}
                </option>
              ))}
            </Select>
          )}
        </Field>
      </div>
      <SortChoice
        table={table}
        sort={section.sort}
        columns={section.columns}
        onChange={(sort) =>
          void onChange(`Sort ${page.title}`, (next) => {
            next.sort = sort;
          })
        }
      />
      <RowsChoice
        label="Of what the person sees, list"
        name="List filter"
        table={table}
        where={section.where}
        onChange={(where) =>
          onChange(`Narrow ${page.title}`, (next) => {
            next.where = where;
          })
        }
      />
      <Field label="In groups by">
        {(ids) => (
          <Select
            {...ids}
            className="max-w-80"
            value={section.group ?? ''}
            onPick={(picked) =>
              void onChange(`Group ${page.title}`, (next) => {
                if (picked === '') delete next.group;
                else next.group = picked;
              })
            }
          >
            <option value="">nothing</option>
            {[...new Set([...section.columns, ...seen, ...(section.group ? [section.group] : [])])].map((path) => (
              <option key={path} value={path}>
                {names.path(section.table, path)}
              </option>
            ))}
          </Select>
        )}
      </Field>
      <PathTicks
        legend="Summed up below the list"
        columns={section.columns.filter((path) => isNumber(table, path))}
        called={(path) => names.path(section.table, path)}
        ticked={section.totals ?? []}
        onChange={(totals) =>
          void onChange(`Choose the sums of ${page.title}`, (next) => {
            if (totals.length > 0) next.totals = totals;
            else delete next.totals;
          })
        }
      />
      <PathTicks
        legend="Changed in the list itself, by those who may"
        columns={section.columns.filter((path) => isChangeable(table, path))}
        called={(path) => names.path(section.table, path)}
        ticked={section.inPlace ?? []}
        onChange={(inPlace) =>
          void onChange(`Choose what is changed in ${page.title}`, (next) => {
            if (inPlace.length > 0) next.inPlace = inPlace;
            else delete next.inPlace;
          })
        }
      />
      <PathTicks
        legend="Searched in; where none is ticked, in all that it shows"
        columns={[...new Set([...section.columns, ...seen, ...(section.searched ?? [])])]}
        called={(path) => names.path(section.table, path)}
        ticked={section.searched ?? []}
        onChange={(searched) =>
          void onChange(`Choose what is searched in ${page.title}`, (next) => {
            if (searched.length > 0) next.searched = searched;
            else delete next.searched;
          })
        }
      />
      <MarksChoice
        table={table}
        columns={section.columns}
        marks={section.marks ?? []}
        onChange={(label, marks) =>
          onChange(`${label} of ${page.title}`, (next) => {
            if (marks.length > 0) next.marks = marks;
            else delete next.marks;
          })
        }
      />
      <TabsChoice
        table={table}
        columns={section.columns}
        of={section.audience?.roles ?? page.audience.roles}
        tabs={section.tabs ?? []}
        onChange={(label, tabs) =>
          onChange(`${label} of ${page.title}`, (next) => {
            if (tabs.length > 0) next.tabs = tabs;
            else delete next.tabs;
          })
        }
      />
      <RoleTicks
        legend="May share views that they keep of it"
        ticked={section.shares ?? []}
        fits={({ id }) => page.audience.roles === 'everyone' || page.audience.roles.includes(id)}
        onChange={(change) =>
          void onChange(`Choose who shares views of ${page.title}`, (next) => {
            const shares = change(next.shares ?? []);
            if (shares.length > 0) next.shares = shares;
            else delete next.shares;
          })
        }
      />
      <label className="inline-flex min-h-6 items-center gap-2">
        <input
          type="checkbox"
          checked={section.line === true}
          onChange={(event) => {
            const isAdded = event.target.checked;
            void onChange(`${isAdded ? 'Add' : 'Add no'} lines in ${page.title} itself`, (next) => {
              if (isAdded) next.line = true;
              else delete next.line;
            });
          }}
        />{' '}
        New records are added in a line of the list, where its columns are all that they need
      </label>
      <RecordButtons
        page={page}
        section={section.id}
        table={section.table}
        ticked={section.acts ?? []}
        onChange={(acts) =>
          void onChange(`Choose what stands at each record of ${page.title}`, (next) => {
            if (acts.length > 0) next.acts = acts;
            else delete next.acts;
          })
        }
      />
      <ActsChoice
        bare={section.bare === true}
        onBare={(bare) =>
          void onChange(`${bare ? 'Leave out' : 'Show'} search and filters on ${page.title}`, (next) => {
            if (bare) next.bare = true;
            else delete next.bare;
          })
        }
        without={section.without ?? []}
        onChange={(without) =>
          void onChange(`Choose what is done on ${page.title}`, (next) => {
            if (without.length > 0) next.without = without;
            else delete next.without;
          })
        }
      />
    </>
  );
}

const actWords: Record<ListAct, string> = { create: 'Add records', delete: 'Delete records', export: 'Take them out' };

/** What is offered of what rights allow. */
function ActsChoice({
  bare,
  onBare,
  without,
  onChange,
}: {
  bare: boolean;
  onBare: (bare: boolean) => void;
  without: ListAct[];
  onChange: (without: ListAct[]) => void;
}) {
  return (
    <fieldset className="grid gap-1">
      <legend className="font-semibold text-sm">Whoever may, can here</legend>
      <div className="flex flex-wrap gap-x-5">
        {listActs.map((act) => (
          <label key={act} className="inline-flex min-h-7 items-center gap-2 text-sm">
            <input
              type="checkbox"
              checked={!without.includes(act)}
              onChange={(event) =>
                onChange(listActs.filter((each) => (each === act ? !event.target.checked : without.includes(each))))
              }
            />{' '}
            {actWords[act]}
          </label>
        ))}
        <label className="inline-flex min-h-7 items-center gap-2 text-sm">
          <input type="checkbox" checked={!bare} onChange={(event) => onBare(!event.target.checked)} /> Search, filter
          and arrange
        </label>
      </div>
    </fieldset>
  );
}

const isNumber = (table: Table, path: string) =>
  ['whole number', 'decimal', 'number'].includes(findColumn(table, path)?.type ?? '') && !table.key.includes(path);

/** Of the list's own table, and written as it stands: what relations lead to is changed on the record's page. */
const isChangeable = (table: Table, path: string): boolean => {
  const column = findColumn(table, path);
  return (
    column !== undefined &&
    !column.automatic &&
    column.kind !== 'file' &&
    !table.key.includes(path) &&
    !table.relations.some((relation) => relation.column === path)
  );
};

/** Some of a list's columns. */
function PathTicks({
  legend,
  columns,
  called: calledBy,
  ticked,
  onChange,
}: {
  legend: string;
  columns: string[];
  called: (path: string) => string;
  ticked: string[];
  onChange: (ticked: string[]) => void;
}) {
  const all = [...new Set([...columns, ...ticked])];
  if (all.length === 0) return null;
  return (
    <fieldset className="grid gap-1">
      <legend className="font-semibold text-sm">{legend}</legend>
      <div className="flex flex-wrap gap-x-5">
        {all.map((path) => (
          <label key={path} className="inline-flex min-h-7 items-center gap-2 text-sm">
            <input
              type="checkbox"
              checked={ticked.includes(path)}
              onChange={(event) =>
                onChange(all.filter((each) => (each === path ? event.target.checked : ticked.includes(each))))
              }
            />{' '}
            {calledBy(path)}
          </label>
        ))}
      </div>
    </fieldset>
  );
}
