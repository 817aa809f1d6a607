import { useState } from 'react';
import { useNavigate } from 'react-router';
import type { ListSection, Page } from '../../../core/definition/definition';
import { findTable, isClosed } from '../../../core/table/catalogue';
import { Button } from '../../ui/Button';
import { Field } from '../../ui/Field';
import { Notice } from '../../ui/Notice';
import { useBench } from '../bench/bench-context';
import { ConditionEditor } from '../access/ConditionEditor';
import { firstCondition } from '../access/choices';
import { StageFrame, StageHead } from '../bench/StageFrame';
import { ColumnOrder } from './ColumnOrder';
import { SortChoice } from './SortChoice';

/** The pages of the portal, each with its list and record page. */
export default function PagesStage() {
  const { draft, object, to, edit } = useBench();
  const navigate = useNavigate();
  const id = object ?? draft.pages[0]?.id;
  const [moved, setMoved] = useState<Moved>(new Map());
  const noteMove = (from: string, toId: string) =>
    setMoved((before) => new Map([...before, [from, toId] as const].filter(([each]) => each !== toId)));
  const page = pageAt(draft.pages, id, moved);
  const add = async () => {
    const free = Array.from({ length: 201 }, (_, i) => `page-${i + 1}`).find(
      (each) => !draft.pages.some((known) => known.id === each),
    )!;
    const problem = await edit('Add a page', (next) => {
      next.pages.push({ id: free, title: 'New page', intro: '', roles: [], sections: [] });
    });
    if (problem === null) void navigate(to('pages', free));
  };
  return (
    <StageFrame
      title="Pages"
      groups={[
        {
          title: 'Pages, in order',
          items: draft.pages.map((each) => ({
            key: each.id,
            label: each.title,
            to: to('pages', each.id),
            current: each.id === id,
          })),
        },
      ]}
      foot={
        <div className="px-4">
          <Button small onClick={() => void add()}>
            + page
          </Button>
        </div>
      }
    >
      {draft.pages.length === 0 && (
        <div className="p-4">
          <Notice kind="say">
            There are no pages yet. Add one on the left: it lists the records of a table, and each opens as a record
            page.
          </Notice>
        </div>
      )}
      {draft.pages.length > 0 && !page && (
        <div className="p-4">
          <Notice kind="fault">There is no page {id}. Choose one on the left.</Notice>
        </div>
      )}
      {page && <PageEditor key={draft.pages.indexOf(page)} page={page} moved={moved} onMoved={noteMove} />}
    </StageFrame>
  );
}

/**
 * Where pages have got another address while something else was pressed: what was meant for the old one goes to the
 * new.
 */
type Moved = ReadonlyMap<string, string>;

const nowAt = (moved: Moved, id: string): string => (moved.has(id) ? nowAt(moved, moved.get(id)!) : id);

const pageAt = (pages: Page[], id: string | undefined, moved: Moved): Page | undefined =>
  pages.find((each) => each.id === id) ??
  (id === undefined ? undefined : pages.find((each) => each.id === nowAt(moved, id)));

function PageEditor({
  page,
  moved,
  onMoved,
}: {
  page: Page;
  moved: Moved;
  onMoved: (from: string, to: string) => void;
}) {
  const { draft, edit, to, catalogue } = useBench();
  const navigate = useNavigate();
  const change = (label: string, recipe: (page: Page) => void) =>
    edit(label, (next) => {
      const known = pageAt(next.pages, page.id, moved);
      if (known) recipe(known);
    });
  const at = draft.pages.indexOf(page);
  const move = (by: number) =>
    void edit(`Move ${page.title}`, (next) => {
      const [moved] = next.pages.splice(at, 1);
      next.pages.splice(at + by, 0, moved!);
    });
  const addSection = (table: string) =>
    void change(`List ${table} on ${page.title}`, (next) => {
      const columns = visibleColumns(table);
      next.sections.push({
        kind: 'list',
        table,
        columns: columns.slice(0, 5),
        sort: [],
        where: 'every row',
        record: columns,
      });
    });
  /** Columns that some role of the page sees; all of the table when it is for nobody yet. */
  const visibleColumns = (table: string): string[] => {
    const known = findTable(catalogue, table);
    const names = known?.columns.map((column) => column.name).filter((column) => !isClosed(known, column)) ?? [];
    const seen = new Set(page.roles.flatMap((role) => draft.access[table]?.[role]?.see?.columns ?? []));
    return seen.size ? names.filter((name) => seen.has(name)) : names;
  };
  return (
    <>
      <StageHead title={page.title}>
        <Button small disabled={at === 0} onClick={() => move(-1)}>
          Earlier
        </Button>
        <Button small disabled={at === draft.pages.length - 1} onClick={() => move(1)}>
          Later
        </Button>
        <Button
          small
          weight="danger"
          onClick={() =>
            void edit(`Remove the page ${page.title}`, (next) => {
              next.pages = next.pages.filter((each) => each.id !== page.id);
            }).then(() => navigate(to('pages')))
          }
        >
          Remove
        </Button>
      </StageHead>
      <div className="grid gap-5 p-4">
        <div className="grid gap-4 md:grid-cols-2">
          <Field label="Title">
            {(ids) => (
              <input
                className="field"
                {...ids}
                key={page.title}
                defaultValue={page.title}
                maxLength={120}
                onBlur={(event) => {
                  const title = event.target.value.trim();
                  if (title && title !== page.title)
                    void change(`Call the page ${title}`, (next) => {
                      next.title = title;
                    });
                }}
              />
            )}
          </Field>
          <Field label="Address" hint={`/p/${draft.portal.slug}/${page.id}`}>
            {(ids) => (
              <input
                className="field"
                {...ids}
                key={page.id}
                defaultValue={page.id}
                maxLength={40}
                onBlur={(event) => {
                  const id = event.target.value.trim();
                  if (!id || id === page.id) return;
                  onMoved(page.id, id);
                  void change(`Move the page to ${id}`, (next) => {
                    next.id = id;
                  }).then((problem) => {
                    if (problem === null) void navigate(to('pages', id));
                  });
                }}
              />
            )}
          </Field>
          <Field label="Words under the title">
            {(ids) => (
              <textarea
                className="field"
                rows={2}
                {...ids}
                key={page.intro}
                defaultValue={page.intro}
                maxLength={1000}
                onBlur={(event) => {
                  const intro = event.target.value.trim();
                  if (intro !== page.intro)
                    void change(`Word ${page.title}`, (next) => {
                      next.intro = intro;
                    });
                }}
              />
            )}
          </Field>
          <fieldset>
            <legend className="text-sm font-semibold">Who gets this page</legend>
            {draft.roles.length === 0 && <p className="text-soft">There are no roles yet.</p>}
            <div className="flex flex-wrap gap-x-4 gap-y-1 pt-1">
              {draft.roles.map((role) => (
                <label key={role.id} className="inline-flex items-center gap-2">
                  <input
                    type="checkbox"
                    checked={page.roles.includes(role.id)}
                    onChange={(event) => {
                      // Read now: the recipe runs later, when the box shows the draft's value again.
                      const given = event.target.checked;
                      void change(
                        `${given ? 'Give' : 'Take'} ${page.title} ${given ? 'to' : 'from'} ${role.name}`,
                        (next) => {
                          next.roles = draft.roles
                            .map((each) => each.id)
                            .filter((id) => (id === role.id ? given : next.roles.includes(id)));
                        },
                      );
                    }}
                  />{' '}
                  {role.name}
                </label>
              ))}
            </div>
          </fieldset>
        </div>
        {page.sections.map((section, i) => (
          <SectionEditor
            key={i}
            page={page}
            section={section}
            visible={visibleColumns(section.table)}
            onChange={(label, recipe) => change(label, (next) => recipe(next.sections[i]!))}
            onRemove={() =>
              void change(`Take the list off ${page.title}`, (next) => {
                next.sections.splice(i, 1);
              })
            }
          />
        ))}
        {page.sections.length === 0 && (
          <Field label="List the records of">
            {(ids) => (
              <select
                className="field max-w-80"
                {...ids}
                value=""
                onChange={(event) => {
                  if (event.target.value) addSection(event.target.value);
                }}
              >
                <option value="">choose a table</option>
                {catalogue.tables
                  .filter((table) => table.key.length > 0)
                  .map((table) => (
                    <option key={table.name}>{table.name}</option>
                  ))}
              </select>
            )}
          </Field>
        )}
      </div>
    </>
  );
}

function SectionEditor({
  page,
  section,
  visible,
  onChange,
  onRemove,
}: {
  page: Page;
  section: ListSection;
  visible: string[];
  onChange: (label: string, recipe: (section: ListSection) => void) => Promise<string | null>;
  onRemove: () => void;
}) {
  const { catalogue } = useBench();
  const table = findTable(catalogue, section.table);
  return (
    <section aria-label={`List of ${section.table}`} className="grid gap-4 rounded-stone border border-line p-4">
      <div className="flex items-center gap-3">
        <h2 className="mr-auto">List of {section.table}</h2>
        <Button small onClick={onRemove}>
          Take off
        </Button>
      </div>
      {!table && <Notice kind="fault">The database has no table {section.table} any more.</Notice>}
      {table && (
        <>
          <div className="grid gap-4 lg:grid-cols-2">
            <ColumnOrder
              title="Columns of the list"
              table={table}
              visible={visible}
              chosen={section.columns}
              onChange={(columns) =>
                void onChange(`Choose the columns of ${page.title}`, (next) => {
                  next.columns = columns;
                })
              }
            />
            <ColumnOrder
              title="On the record page"
              table={table}
              visible={visible}
              chosen={section.record}
              onChange={(columns) =>
                void onChange(`Choose the record page of ${page.title}`, (next) => {
                  next.record = columns;
                })
              }
            />
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
          <div className="grid gap-2">
            <label className="flex flex-wrap items-center gap-2 font-semibold text-sm">
              Of what the person sees, list
              <select
                className="field w-auto font-normal"
                value={section.where === 'every row' ? 'all' : 'some'}
                onChange={(event) => {
                  const where = event.target.value === 'all' ? 'every row' : firstCondition(table);
                  void onChange(`Narrow ${page.title}`, (next) => {
                    next.where = where;
                  });
                }}
              >
                <option value="all">every row</option>
                <option value="some">rows where …</option>
              </select>
            </label>
            {section.where !== 'every row' && (
              <ConditionEditor
                table={table}
                name="List filter"
                value={section.where}
                onChange={(where) =>
                  onChange(`Narrow ${page.title}`, (next) => {
                    next.where = where;
                  })
                }
              />
            )}
          </div>
        </>
      )}
    </section>
  );
}
