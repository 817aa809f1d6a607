import type { Section } from '../../../core/definition/section-kinds';
import { rolesNamed } from '../../../core/access/public-pages';
import { counted } from '../../../core/text/counted';
import { lazy, Suspense, useState } from 'react';
import { useNavigate } from 'react-router';
import type { Page } from '../../../core/definition/definition';
import { freeId } from '../../../core/definition/free-id';
import { findTable, isClosed, type Table } from '../../../core/table/catalogue';
import { sectionEdits } from '../../../sections/edit';
import { Button } from '../../ui/Button';
import { Field } from '../../ui/Field';
import { Notice, Skeleton } from '../../ui/Notice';
import { Question } from '../../ui/Question';
import { useBench } from '../bench/bench-context';
import { StageFrame, StageHead } from '../bench/StageFrame';
import { AudienceWhere } from './AudienceWhere';
import { AddSection } from './AddSection';
import { SectionEditor } from './SectionEditor';
import { PagePlace } from './PagePlace';
import { SheetEditor } from './SheetEditor';
import { useNames } from '../bench/names';

const FaceEditor = lazy(() => import('./FaceEditor').then((part) => ({ default: part.FaceEditor })));

const FormsScreen = lazy(() => import('../forms/FormsScreen'));
const ActionsScreen = lazy(() => import('../actions/ActionsScreen'));
const CallsScreen = lazy(() => import('../calls/CallsScreen'));
const LayDown = lazy(() => import('./LayDown'));
const PageDrawing = lazy(() => import('./PageDrawing'));

/** No page's address and no table's sign has it. */
const faceObject = '!face';
const actionsObject = '!actions';
const formsObject = '!forms';
const callsObject = '!calls';

/** The pages of the portal, each with its list and record page. */
export default function PagesStage() {
  const { draft, object, to, edit } = useBench();
  const names = useNames();
  const navigate = useNavigate();
  const id = object ?? draft.pages[0]?.id;
  const [laying, setLaying] = useState(false);
  const [moved, setMoved] = useState<Moved>(new Map());
  const noteMove = (from: string, toId: string) =>
    setMoved((before) => new Map([...before, [from, toId] as const].filter(([each]) => each !== toId)));
  // A table's sheet stands under the table's name with a sign before it that no page's address has.
  const sheet = object?.startsWith('~') && Object.hasOwn(draft.sheets, object.slice(1)) ? object.slice(1) : null;
  const isFace = object === faceObject;
  const isActions = object === actionsObject;
  const isForms = object === formsObject;
  const isCalls = object === callsObject;
  const isOfPages = sheet === null && !isFace && !isActions && !isForms && !isCalls;
  const page = isOfPages ? pageAt(draft.pages, id, moved) : undefined;
  const add = async () => {
    const free = Array.from({ length: 201 }, (_, i) => `page-${i + 1}`).find(
      (each) => !draft.pages.some((known) => known.id === each),
    )!;
    const problem = await edit('Add a page', (next) => {
      next.pages.push({ id: free, title: 'New page', intro: '', audience: { roles: [] }, sections: [] });
    });
    if (problem === null) void navigate(to('pages', free));
  };
  return (
    <StageFrame
      title="Pages"
      groups={[
        {
          title: 'The portal',
          items: [
            { key: faceObject, label: 'Name and face', to: to('pages', faceObject), current: isFace },
            { key: formsObject, label: 'Forms', to: to('pages', formsObject), current: isForms },
            { key: actionsObject, label: 'Actions', to: to('pages', actionsObject), current: isActions },
            { key: callsObject, label: 'Calls', to: to('pages', callsObject), current: isCalls },
          ],
        },
        {
          title: 'Pages, in order',
          items: draft.pages.map((each) => ({
            key: each.id,
            label: each.title,
            to: to('pages', each.id),
            current: each.id === id,
          })),
        },
        ...(Object.keys(draft.sheets).length === 0
          ? []
          : [
              {
                title: 'Records',
                items: Object.keys(draft.sheets).map((table) => ({
                  key: `~${table}`,
                  label: names.table(table),
                  raw: table,
                  to: to('pages', `~${table}`),
                  current: table === sheet,
                })),
              },
            ]),
      ]}
      foot={
        <div className="flex flex-wrap gap-2 px-4">
          <Button small onClick={() => void add()}>
            + page
          </Button>
          {draft.roles.length > 0 && (
            <Button small onClick={() => setLaying(true)}>
              Lay down …
            </Button>
          )}
          {laying && (
            <Suspense>
              <LayDown onClose={() => setLaying(false)} />
            </Suspense>
          )}
        </div>
      }
    >
      {isForms && (
        <Suspense fallback={<Skeleton />}>
          <FormsScreen />
        </Suspense>
      )}
      {isActions && (
        <Suspense fallback={<Skeleton />}>
          <ActionsScreen />
        </Suspense>
      )}
      {isCalls && (
        <Suspense fallback={<Skeleton />}>
          <CallsScreen />
        </Suspense>
      )}
      {isFace && (
        <Suspense fallback={<Skeleton />}>
          <FaceEditor />
        </Suspense>
      )}
      {sheet !== null && <SheetEditor key={sheet} table={sheet} />}
      {isOfPages && draft.pages.length === 0 && (
        <div className="p-4">
          <Notice kind="say">
            There are no pages yet. Lay some down on the left from what a role sees, or add one and put sections on it.
          </Notice>
        </div>
      )}
      {isOfPages && draft.pages.length > 0 && !page && (
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
  const moveSection = (id: string, to: number) =>
    void change(`Move a section of ${page.title}`, (next) => {
      const from = next.sections.findIndex((each) => each.id === id);
      const [moved] = next.sections.splice(from, 1);
      next.sections.splice(to, 0, moved!);
    });
  const addSection = (kind: string, table: Table | null, thing: string | null) => {
    const editing = sectionEdits[kind]!;
    const section = editing.empty(table, table ? visibleColumns(table.name) : [], thing);
    void edit(`Put ${editing.word.toLowerCase()} on ${page.title}`, (next) => {
      const known = pageAt(next.pages, page.id, moved);
      known?.sections.push({ ...section, id: freeId(table?.name ?? kind, known.sections) } as Section);
      if (table && !Object.hasOwn(next.sheets, table.name))
        next.sheets[table.name] = { columns: visibleColumns(table.name) };
    });
  };
  /** Columns that some role of the page sees; all of the table when it is for nobody yet. */
  const visibleColumns = (table: string): string[] => {
    const known = findTable(catalogue, table);
    const names = known?.columns.map((column) => column.name).filter((column) => !isClosed(known, column)) ?? [];
    const roles = rolesNamed(page.audience.roles, draft);
    const seen = new Set(roles.flatMap((role) => draft.access[table]?.[role]?.see?.columns ?? []));
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
        <Question
          trigger={
            <Button small weight="danger">
              Remove
            </Button>
          }
          title={`Remove the page ${page.title}?`}
          says={
            <>
              <p>
                It has {counted(page.sections.length, 'section')}, and{' '}
                {page.audience.roles === 'everyone' ? 'everyone' : counted(page.audience.roles.length, 'role')} gets it.
                Rights stay as they are.
              </p>
              <p className="text-soft">It changes the draft alone, and can be undone.</p>
            </>
          }
          keep="Keep the page"
          go="Remove the page"
          onGo={() =>
            void edit(`Remove the page ${page.title}`, (next) => {
              next.pages = next.pages.filter((each) => each.id !== page.id);
            }).then(() => navigate(to('pages')))
          }
        />
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
                <label key={role.id} className="inline-flex min-h-7 items-center gap-2">
                  <input
                    type="checkbox"
                    checked={rolesNamed(page.audience.roles, draft).includes(role.id)}
                    onChange={(event) => {
                      // Read now: the recipe runs later, when the box shows the draft's value again.
                      const given = event.target.checked;
                      void change(
                        `${given ? 'Give' : 'Take'} ${page.title} ${given ? 'to' : 'from'} ${role.name}`,
                        (next) => {
                          const were = rolesNamed(next.audience.roles, draft);
                          next.audience.roles = draft.roles
                            .map((each) => each.id)
                            .filter((id) => (id === role.id ? given : were.includes(id)));
                        },
                      );
                    }}
                  />{' '}
                  {role.name}
                  {role.for === 'visitors' && <span className="text-soft">without signing in</span>}
                </label>
              ))}
            </div>
            <AudienceWhere
              name={`Who gets ${page.title}`}
              where={page.audience.where}
              onChange={(where) =>
                change(`Choose who gets ${page.title}`, (next) => {
                  if (where) next.audience.where = where;
                  else delete next.audience.where;
                })
              }
            />
          </fieldset>
        </div>
        <PagePlace page={page} onChange={change} />
        {page.sections.length > 1 && (
          <Suspense fallback={<Skeleton lines={3} />}>
            <PageDrawing
              page={page}
              onOrder={moveSection}
              onWidth={(id, width) =>
                void change(`Set the width of a section of ${page.title}`, (next) => {
                  const known = next.sections.find((each) => each.id === id);
                  if (width === 'full') delete known?.width;
                  else if (known) known.width = width;
                })
              }
            />
          </Suspense>
        )}
        {page.sections.map((section) => (
          <SectionEditor
            key={section.id}
            page={page}
            section={section}
            visible={visibleColumns}
            onMove={(by) => moveSection(section.id, page.sections.indexOf(section) + by)}
            onChange={(label, recipe) =>
              change(label, (next) => {
                const known = next.sections.find((each) => each.id === section.id);
                if (known) recipe(known);
              })
            }
            onRemove={() =>
              void change(`Take ${sectionEdits[section.kind]!.called(section, draft)} off ${page.title}`, (next) => {
                next.sections = next.sections.filter((each) => each.id !== section.id);
              })
            }
          />
        ))}
        <AddSection page={page} onAdd={addSection} />
      </div>
    </>
  );
}
