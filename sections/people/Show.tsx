import { useState } from 'react';
import { MoreHorizontal, UserPlus } from 'lucide-react';
import { askedText } from '../../web/records/Answered';
import { useLookedAfter, type LookedAfterList } from '../../web/client/stewards';
import { SpotLink, useListState, usePlace } from '../../web/place/place';
import { FilterBar } from '../../web/records/FilterBar';
import { dayText, stateWords } from '../../web/records/member-words';
import { RecordCell } from '../../web/records/RecordCell';
import { Button } from '../../web/ui/Button';
import { Menu } from '../../web/ui/Menu';
import { Notice, Skeleton } from '../../web/ui/Notice';
import { Pager } from '../../web/records/Pager';
import type { ShowProps } from '../show';
import { AddPerson } from './AddPerson';
import { actsFor, PersonActs, type ActOn } from './PersonActs';

type PeopleInfo = ShowProps<'people'>['section'];

/** Those whom somebody looks after: their rows, how they stand, and what can be done for each. */
export default function PeopleShow({ section }: ShowProps<'people'>) {
  const { base, spot, seenBy } = usePlace();
  const { state, clear, narrow } = useListState(section.id);
  const answer = useLookedAfter(base, section.steward, state);
  const [adding, setAdding] = useState(false);
  const [act, setAct] = useState<ActOn | null>(null);
  const [done, setDone] = useState('');
  if (section.columns.length === 0) return <Notice kind="say">There is nobody here whom you look after.</Notice>;
  const narrowed = state.search !== '' || state.filter !== '';
  const begin = (next: ActOn | null) => {
    setDone('');
    setAct(next);
  };
  return (
    <div className="grid gap-3">
      <div className="flex flex-wrap items-start gap-2">
        <div className="flex min-w-0 grow flex-wrap items-center gap-2">
          <FilterBar
            key={spot.page}
            base={base}
            table={section.table}
            columns={section.columns}
            noun="people"
            search={state.search}
            filter={state.filter}
            onNarrow={narrow}
          />
        </div>
        {section.fills && (
          <Button weight="main" disabled={seenBy} onClick={() => setAdding(true)}>
            <UserPlus size={16} aria-hidden /> Add somebody
          </Button>
        )}
      </div>
      <p role="status" className={done ? 'font-semibold text-lichen-ink' : 'sr-only'}>
        {done}
      </p>
      {answer.isError && (
        <Notice
          kind="fault"
          action={
            <Button small onClick={narrowed ? clear : () => void answer.refetch()}>
              {narrowed ? 'Show all' : 'Try again'}
            </Button>
          }
        >
          {askedText(answer.error, true)}
        </Notice>
      )}
      {answer.isPending && <Skeleton lines={6} />}
      {answer.data && !answer.isError && answer.data.total === 0 && (
        <Notice
          kind="say"
          action={
            narrowed && (
              <Button small onClick={clear}>
                Show all
              </Button>
            )
          }
        >
          {narrowed ? 'Nobody here matches what you look for.' : 'There is nobody here yet.'}
        </Notice>
      )}
      {answer.data && !answer.isError && answer.data.total > 0 && (
        <>
          <People section={section} answer={answer.data} onAct={begin} />
          <Pager section={section.id} answer={answer.data} noun="people" />
        </>
      )}
      {adding && (
        <AddPerson
          section={section}
          onClose={() => setAdding(false)}
          onAdded={() => {
            setAdding(false);
            setDone('Added. Nothing was sent to them yet.');
          }}
        />
      )}
      {act && (
        <PersonActs
          section={section}
          act={act}
          onClose={() => setAct(null)}
          onDone={(words) => {
            setAct(null);
            setDone(words);
          }}
        />
      )}
    </div>
  );
}

function People({
  section,
  answer,
  onAct,
}: {
  section: PeopleInfo;
  answer: LookedAfterList;
  onAct: (act: ActOn) => void;
}) {
  const { base, seenBy } = usePlace();
  const { open: opened, at } = useListState(section.id);
  const [first, ...rest] = section.columns;
  return (
    <ul className="rounded-stone border border-line bg-paper" aria-label="People">
      {answer.records.map((record) => {
        const id = record.id!;
        const stands = answer.people[id] ?? { state: 'known' as const, lastIn: null, invitedAt: null };
        const name = String(record.values[first!.path] ?? '');
        const acts = actsFor(section, { id, name, ...stands });
        return (
          <li
            key={id}
            aria-current={id === opened || undefined}
            className={
              'flex items-start gap-3 border-b border-line px-3 py-2.5 last:border-0 ' +
              `${id === opened ? 'bg-water-wash' : ''}`
            }
          >
            <div className="grid min-w-0 grow gap-0.5">
              <SpotLink
                to={at(id)}
                className="inline-flex min-h-7 items-center justify-self-start font-semibold text-ink hover:underline"
              >
                <RecordCell plain base={base} table={section.table} column={first!} record={record} />
              </SpotLink>
              <span className="flex flex-wrap gap-x-4 text-sm text-soft">
                {rest.map((column) => (
                  <span key={column.path} className="min-w-0 break-words">
                    <span className="sr-only">{column.label}: </span>
                    <RecordCell plain base={base} table={section.table} column={column} record={record} />
                  </span>
                ))}
              </span>
            </div>
            <span className="shrink-0 pt-1 text-right text-sm">
              <StateSaid {...stands} />
            </span>
            {acts.length > 0 && (
              <Menu
                align="end"
                button={{
                  className: 'rounded-stone border border-line-strong bg-paper p-1.5 hover:bg-sunk disabled:opacity-50',
                  'aria-label': `What to do for ${name}`,
                  disabled: seenBy,
                  children: <MoreHorizontal size={16} aria-hidden />,
                }}
                entries={() => acts.map((act) => ({ label: act.word, key: act.what, onSelect: () => onAct(act) }))}
              />
            )}
          </li>
        );
      })}
    </ul>
  );
}

function StateSaid({ state, lastIn, invitedAt }: LookedAfterList['people'][string]) {
  const beside =
    state === 'active' ? `in on ${dayText(lastIn)}` : state === 'invited' ? `on ${dayText(invitedAt)}` : null;
  return (
    <>
      <span
        className={state === 'suspended' ? 'font-semibold text-iron' : 'font-semibold'}
        title={stateWords[state].means}
      >
        {stateWords[state].label}
      </span>
      {beside && <span className="block text-soft">{beside}</span>}
    </>
  );
}
