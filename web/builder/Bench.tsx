import { counted } from '../../core/text/counted';
import { lazy, Suspense, useCallback, useEffect, useMemo, useRef, useState } from 'react';
import { Link, useNavigate, useParams } from 'react-router';
import { useQueryClient } from '@tanstack/react-query';
import { Eye, Redo2, Undo2 } from 'lucide-react';
import { problemText } from '../client/http';
import { useEditDraft, useStepDraft } from '../client/draft-edits';
import { useSaving, portalKey, type PortalState } from '../client/draft';
import { useOthersChanges, usePortal } from '../client/builder';
import { Boundary } from '../ui/Boundary';
import { Button, buttonLook } from '../ui/Button';
import { Notice, Skeleton } from '../ui/Notice';
import { Arch } from '../ui/Stones';
import { LastDoneContext, useLastDoneHere } from '../client/last-done';
import { BenchProvider, stages, type BenchPerson, type BenchState } from './bench/bench-context';
import { Jobs } from './Jobs';
import { SeenBy } from './bench/SeenBy';
import { Shortcuts } from './Shortcuts';
import { names, Course } from './Course';
import { hint } from '../ui/hint';

const screens = {
  data: lazy(() => import('./data/DataStage')),
  people: lazy(() => import('./people/PeopleStage')),
  access: lazy(() => import('./access/AccessStage')),
  pages: lazy(() => import('./pages/PagesStage')),
  check: lazy(() => import('./check/CheckStage')),
  publish: lazy(() => import('./publish/PublishStage')),
};

/** The bench: objects of the stage, the one being worked on, and Seen by. */
export default function Bench() {
  const { slug = '' } = useParams();
  const portal = usePortal(slug);
  if (portal.isPending)
    return (
      <div className="p-6">
        <Skeleton />
      </div>
    );
  if (!portal.data)
    return (
      <div className="grid gap-3 p-6">
        <Notice kind="fault">{problemText(portal.error)}</Notice>
        <Link to="/">All portals</Link>
      </div>
    );
  return <Open key={slug} slug={slug} state={portal.data} />;
}

function Open({ slug, state }: { slug: string; state: PortalState }) {
  const { stage: stageName = 'data', object = null } = useParams();
  const navigate = useNavigate();
  const stage = stages.find((each) => each === stageName);
  const [fault, setFault] = useState<string | null>(null);
  const [help, setHelp] = useState(false);
  const [seenOpen, setSeenOpen] = useKept('seen-by', 'open');
  const [personText, setPersonText] = useKept(`person/${slug}`, '');
  const person = useMemo(() => (personText ? (JSON.parse(personText) as BenchPerson) : null), [personText]);
  const [version, setVersion] = useState<number | null>(null);
  useOthersChanges(slug, state);
  const saving = useSaving(slug);
  const editDraft = useEditDraft(slug);
  const stepDraft = useStepDraft(slug);

  const lastDone = useLastDoneHere();
  const done = useRef(lastDone);
  useEffect(() => {
    done.current = lastDone;
  });
  const client = useQueryClient();
  const [stepped, setStepped] = useState<string | null>(null);

  const edit = useCallback<BenchState['edit']>(
    async (label, recipe) => {
      const edited = editDraft(label, recipe);
      done.current.doing(edited);
      const problem = await edited;
      setFault(problem);
      if (problem === null) done.current.did('draft');
      setStepped(null);
      return problem;
    },
    [editDraft],
  );
  /** Undoes what was done last, be it in records or in the draft, and says what it was. */
  const step = useCallback(
    async (which: 'undo' | 'redo') => {
      const labelNow = () => client.getQueryData<PortalState>(portalKey(slug))?.[which] ?? null;
      const records = which === 'undo' ? await done.current.undoRecords(() => labelNow() !== null) : undefined;
      if (records !== undefined) return setStepped(records);
      const label = labelNow();
      if (label === null)
        return setStepped(which === 'undo' ? 'There is nothing to undo.' : 'There is nothing to do again.');
      const problem = await stepDraft(which);
      setFault(problem);
      if (problem !== null) return setStepped(null);
      if (which === 'redo') done.current.did('draft');
      setStepped(`${which === 'undo' ? 'Undone in the portal' : 'Done again in the portal'}: ${label}`);
    },
    [stepDraft, client, slug],
  );
  const to = useCallback<BenchState['to']>(
    (toStage, toObject, query) =>
      `/build/${slug}/${toStage}${toObject ? `/${encodeURIComponent(toObject)}` : ''}` +
      `${query ? `?${new URLSearchParams(query).toString()}` : ''}`,
    [slug],
  );

  useEffect(() => {
    document.title = `${state.draft.portal.name} · ${stage ? names[stage] : ''} · Stone Porch`;
  }, [state.draft.portal.name, stage]);
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      const typing = (event.target as HTMLElement).closest('input, textarea, select, [contenteditable]') !== null;
      const target = /^[1-6]$/.test(event.key) && event.altKey ? stages[Number(event.key) - 1] : undefined;
      if (target) {
        event.preventDefault();
        void navigate(to(target));
      } else if ((event.ctrlKey || event.metaKey) && event.key.toLowerCase() === 'z' && !typing) {
        event.preventDefault();
        void step(event.shiftKey ? 'redo' : 'undo');
      } else if (event.altKey && !event.ctrlKey && !event.metaKey) {
        // Combinations alone: a single letter would take what is dictated for a command (WCAG 2.2, 2.1.4).
        const key = event.code.replace('Key', '').toLowerCase();
        if (key === 'k') setHelp(true);
        else if (key === 'f') focusOn('[data-find]', event);
        else if (key === 'p') {
          setSeenOpen('open');
          setTimeout(() => focusOn('[data-person]'));
        } else return;
        event.preventDefault();
      }
    };
    window.addEventListener('keydown', onKey);
    return () => window.removeEventListener('keydown', onKey);
  }, [navigate, step, to, setSeenOpen]);

  const bench = useMemo(
    (): BenchState => ({
      slug,
      state,
      draft: state.draft,
      catalogue: state.catalogue,
      edit,
      object,
      to,
      person,
      setPerson: (next) => setPersonText(JSON.stringify(next)),
      version,
      lookAt: (next) => {
        setVersion(next);
        setSeenOpen('open');
      },
    }),
    [slug, state, edit, object, to, person, setPersonText, version, setSeenOpen],
  );
  const undoable = lastDone.label ?? state.undo;
  const Screen = stage ? screens[stage] : null;

  return (
    <LastDoneContext value={lastDone}>
      <BenchProvider value={bench}>
        <div className="grid h-dvh grid-rows-[auto_minmax(0,1fr)] min-w-200">
          <header className="flex items-center gap-4 border-b border-line bg-paper px-4 py-2">
            <Link to="/" aria-label="All portals" className="text-ink">
              <Arch />
            </Link>
            <div className="min-w-0 w-40">
              <p className="truncate font-head font-bold" {...hint(state.draft.portal.name)}>
                {state.draft.portal.name}
              </p>
              <p className="text-sm text-soft" aria-busy={saving} data-testid="saving">
                {saving ? 'saving …' : sinceText(state)}
              </p>
            </div>
            <Course current={stage ?? null} />
            <div className="ml-auto flex items-center gap-1.5">
              <Jobs slug={slug} />
              <Button
                small
                disabled={!undoable}
                {...hint(undoable ? `Undo: ${undoable} (Ctrl+Z)` : 'Nothing to undo', true)}
                aria-label={undoable ? `Undo: ${undoable}` : 'Undo'}
                onClick={() => void step('undo')}
              >
                <Undo2 size={15} aria-hidden />
              </Button>
              <Button
                small
                disabled={!state.redo}
                {...hint(state.redo ? `Redo: ${state.redo} (Ctrl+Shift+Z)` : 'Nothing to redo', true)}
                aria-label={state.redo ? `Redo: ${state.redo}` : 'Redo'}
                onClick={() => void step('redo')}
              >
                <Redo2 size={15} aria-hidden />
              </Button>
              <Button
                small
                aria-pressed={seenOpen === 'open'}
                className={seenOpen === 'open' ? 'bg-sunk' : ''}
                onClick={() => setSeenOpen(seenOpen === 'open' ? 'closed' : 'open')}
              >
                <Eye size={15} aria-hidden /> Seen by
              </Button>
              <Link to={to('publish')} className={buttonLook('main', true)}>
                Publish v{(state.newestVersion ?? 0) + 1}…
              </Link>
            </div>
          </header>
          <div
            className={
              'grid min-h-0 ' + `${seenOpen === 'open' ? 'grid-cols-[minmax(0,1fr)_minmax(21rem,30%)]' : 'grid-cols-1'}`
            }
          >
            <div className="min-h-0 min-w-0 flex flex-col">
              {fault && (
                <div className="p-3 pb-0">
                  <Notice
                    kind="fault"
                    action={
                      <Button small onClick={() => setFault(null)}>
                        Close
                      </Button>
                    }
                  >
                    {fault}
                  </Notice>
                </div>
              )}
              <Suspense
                fallback={
                  <div className="p-6">
                    <Skeleton />
                  </div>
                }
              >
                {Screen ? (
                  <Boundary at={`${stageName}/${object ?? ''}`} what={names[stage!]}>
                    <Screen />
                  </Boundary>
                ) : (
                  <div className="p-6">
                    <Notice kind="fault">There is no stage {stageName}. Choose one above.</Notice>
                  </div>
                )}
              </Suspense>
            </div>
            {seenOpen === 'open' && (
              <Boundary at={`${stageName}/${object ?? ''}/${person?.id ?? ''}/${version ?? ''}`} what="Seen by">
                <SeenBy stage={stage ?? 'data'} />
              </Boundary>
            )}
          </div>
        </div>
        <p
          role="status"
          data-testid="stepped"
          className={
            'pointer-events-none fixed bottom-12 left-4 z-30 max-w-xl rounded-stone border border-line-strong ' +
            `bg-night px-3 py-1.5 text-sm text-white ${stepped ? '' : 'sr-only'}`
          }
        >
          {stepped}
        </p>
        <Shortcuts open={help} onOpenChange={setHelp} />
      </BenchProvider>
    </LastDoneContext>
  );
}

function sinceText(state: PortalState): string {
  if (state.newestVersion === null) return 'not published yet';
  return state.changes === 0
    ? `as in v${state.newestVersion}`
    : `${counted(state.changes, 'change')} since v${state.newestVersion}`;
}

function focusOn(selector: string, event?: KeyboardEvent): void {
  const found = document.querySelector<HTMLElement>(selector);
  if (!found) return;
  event?.preventDefault();
  found.focus();
}

/** A small setting of this browser that stays. */
function useKept(name: string, initial: string): [string, (value: string) => void] {
  const key = `stone-porch/${name}`;
  const [value, setValue] = useState(() => localStorage.getItem(key) ?? initial);
  return [
    value,
    useCallback(
      (next: string) => {
        localStorage.setItem(key, next);
        setValue(next);
      },
      [key],
    ),
  ];
}
