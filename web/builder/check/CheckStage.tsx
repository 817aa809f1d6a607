import { counted } from '../../../core/text/counted';
import { lazy, Suspense, useState, type FormEvent } from 'react';
import { Link, useSearchParams } from 'react-router';
import { alike, type Accepted } from '../../../core/check/accepted';
import { mendsOf } from '../../../core/check/mends';
import type { Finding } from '../../../core/check/finding';
import { problemText } from '../../client/http';
import { usePromises } from '../../client/access';
import { useFindings } from '../../client/builder';
import { outcomeWords, promiseSentence } from '../access/promise-words';
import { Button, buttonLook } from '../../ui/Button';
import { Field } from '../../ui/Field';
import { Notice, Skeleton } from '../../ui/Notice';
import { useBench, type BenchState } from '../bench/bench-context';
import { StageFrame, StageHead } from '../bench/StageFrame';

const Rehearsal = lazy(() => import('./Rehearsal'));
const ProofRun = lazy(() => import('./ProofRun'));

const groups: { severity: Finding['severity']; title: string }[] = [
  { severity: 'leak', title: 'May show or allow too much' },
  { severity: 'broken', title: 'Does not work as meant' },
  { severity: 'slow', title: 'Works, at a price' },
];

/** What the automatic check holds against the draft; each finding names the place and leads there. */
export default function CheckStage() {
  const { slug, state, to } = useBench();
  const [params] = useSearchParams();
  const findings = useFindings(slug, state.revision);
  const all = findings.data?.findings ?? [];
  const kinds = [...new Set(all.map((finding) => finding.kind))];
  const kind = params.get('kind');
  const accepted = findings.data?.accepted ?? [];
  const isAccepted = params.has('accepted');
  const isRehearsal = params.has('rehearsal');
  const isProof = params.has('proof');
  const shown = all.filter((finding) => !kind || finding.kind === kind);
  const items = [
    {
      key: 'all',
      label: 'All findings',
      aside: all.length,
      to: to('check'),
      current: kind === null && !isAccepted && !isRehearsal && !isProof,
    },
    ...kinds.map((each) => ({
      key: each,
      label: each,
      aside: all.filter((finding) => finding.kind === each).length,
      to: to('check', null, { kind: each }),
      current: kind === each,
    })),
  ];
  return (
    <StageFrame
      title="Findings"
      groups={[
        { title: 'Findings', items },
        {
          title: 'Meant so',
          items: [
            {
              key: 'accepted',
              label: 'Accepted',
              aside: accepted.length,
              to: to('check', null, { accepted: '1' }),
              current: isAccepted,
            },
          ],
        },
        {
          title: 'Before inviting',
          items: [
            {
              key: 'rehearsal',
              label: 'Rehearsal',
              to: to('check', null, { rehearsal: 'new' }),
              current: isRehearsal,
            },
            {
              key: 'proof',
              label: 'Proof run',
              to: to('check', null, { proof: 'new' }),
              current: isProof,
            },
          ],
        },
      ]}
    >
      {isRehearsal && (
        <Suspense fallback={<Skeleton />}>
          <Rehearsal />
        </Suspense>
      )}
      {isProof && (
        <Suspense fallback={<Skeleton />}>
          <ProofRun />
        </Suspense>
      )}
      {!isRehearsal && !isProof && <Found findings={findings} shown={shown} isAccepted={isAccepted} />}
    </StageFrame>
  );
}

/** What was found, the worst first; or what is accepted as it is. */
function Found({
  findings,
  shown,
  isAccepted,
}: {
  findings: ReturnType<typeof useFindings>;
  shown: Finding[];
  isAccepted: boolean;
}) {
  const { to } = useBench();
  const { findings: all = [], accepted = [] } = findings.data ?? {};
  return (
    <>
      <StageHead title={isAccepted ? 'What is meant so' : 'What the check found'} />
      <div className="grid gap-5 p-4">
        {!isAccepted && <BrokenPromises />}
        {findings.isPending && <Skeleton />}
        {findings.isError && <Notice kind="fault">{problemText(findings.error)}</Notice>}
        {isAccepted && findings.data && <AcceptedList accepted={accepted} />}
        {!isAccepted && findings.data && all.length === 0 && (
          <Notice kind="say">
            Nothing found in the draft: every filter works, no table is read by everyone, rosters are sound.
          </Notice>
        )}
        {!isAccepted &&
          groups.map((group) => {
            const inGroup = shown.filter((finding) => finding.severity === group.severity);
            return (
              inGroup.length > 0 && (
                <section key={group.severity} className="grid gap-2">
                  <h2>{group.title}</h2>
                  <ul className="grid gap-2">
                    {inGroup.map((finding) => (
                      <FindingLine key={finding.id} finding={finding} same={alike(finding, all)} to={to} />
                    ))}
                  </ul>
                </section>
              )
            );
          })}
      </div>
    </>
  );
}

/** Promises that the draft does not keep: for whom, by which record, and where they are. */
function BrokenPromises() {
  const { slug, state, draft, catalogue, to, setPerson } = useBench();
  const tested = usePromises(slug, state.revision, (draft.promises ?? []).length > 0);
  const broken = tested.data?.outcomes.filter((outcome) => !outcome.kept) ?? [];
  if (broken.length === 0) return null;
  return (
    <section className="grid gap-2">
      <h2>Promises that are broken</h2>
      <ul className="grid gap-2">
        {broken.map((outcome) => {
          const promise = draft.promises?.find((each) => each.id === outcome.id);
          const who = outcome.counterExample?.person;
          return (
            promise && (
              <li
                key={outcome.id}
                className={
                  'grid grid-cols-[minmax(0,1fr)_auto] items-start gap-x-4 rounded-stone border border-line ' +
                  'border-l-4 border-l-iron px-4 py-3'
                }
              >
                <div>
                  <p className="font-semibold break-words">{promiseSentence(promise, draft, catalogue)}</p>
                  <p className="text-soft">{outcomeWords(outcome, promise)}</p>
                  {who && (
                    <div className="mt-1.5">
                      <Button small onClick={() => setPerson({ id: who.id ?? 'visitor', name: who.name })}>
                        See it as {who.name}
                      </Button>
                    </div>
                  )}
                </div>
                <span className="flex gap-1.5">
                  <Link to={to('access', promise.table)} className={buttonLook('plain', true)}>
                    The rules of {promise.table}
                  </Link>
                  <Link to={to('access', '~promises')} className={buttonLook('plain', true)}>
                    The promise
                  </Link>
                </span>
              </li>
            )
          );
        })}
      </ul>
    </section>
  );
}

function FindingLine({ finding, same, to }: { finding: Finding; same: Finding[]; to: BenchState['to'] }) {
  const { draft, catalogue, edit } = useBench();
  const { stage, table, role, column, page, fieldRule, screen, what } = finding.place;
  const query: Record<string, string> = fieldRule
    ? { rule: fieldRule }
    : {
        ...(role ? { role } : {}),
        ...(column ? { column } : {}),
        ...((screen === '!actions' || screen === '!forms') && what ? { rule: what } : {}),
      };
  const mends = mendsOf(finding, draft, catalogue);
  const [asking, setAsking] = useState(false);
  return (
    <li
      className={
        'grid grid-cols-[minmax(0,1fr)_auto] items-start gap-x-4 rounded-stone border border-line border-l-4 ' +
        `px-4 py-3 ${finding.severity === 'leak' ? 'border-l-iron' : 'border-l-ochre-fill'}`
      }
    >
      <div>
        <p className="font-semibold break-words">{finding.title}</p>
        <p className="text-soft">{finding.why}</p>
        <div className="mt-1.5 flex flex-wrap gap-1.5">
          {mends.map((mend) => (
            <Button key={mend.words} small onClick={() => void edit(`Mend: ${mend.words}`.slice(0, 200), mend.change)}>
              {mend.words}
              <span className="sr-only"> ({finding.title})</span>
            </Button>
          ))}
          {finding.kind === 'e-mail used twice' && (
            <Link to={to('data', table ?? null, { 'one-row': table! })} className={buttonLook('plain', true)}>
              Make a query with one row a person …<span className="sr-only"> ({finding.title})</span>
            </Link>
          )}
          {!asking && (
            <Button small weight="quiet" onClick={() => setAsking(true)}>
              It is meant so …<span className="sr-only"> ({finding.title})</span>
            </Button>
          )}
        </div>
        {asking && <Accept finding={finding} same={same} onDone={() => setAsking(false)} />}
      </div>
      <Link
        to={to(stage, fieldRule ? '~rules' : (screen ?? page ?? table ?? null), query)}
        className={buttonLook('plain', true)}
      >
        Go there<span className="sr-only">: {finding.title}</span>
      </Link>
    </li>
  );
}

/** Why a finding is meant so; one reason can hold for all of its kind and role. */
function Accept({ finding, same, onDone }: { finding: Finding; same: Finding[]; onDone: () => void }) {
  const { draft, edit } = useBench();
  const [reason, setReason] = useState('');
  const [all, setAll] = useState(false);
  const role = draft.roles.find((each) => each.id === finding.place.role)?.name;
  const submit = (event: FormEvent) => {
    event.preventDefault();
    const meant = (all ? same : [finding]).map((each) => ({ finding: each.id, reason: reason.trim() }));
    void edit(
      meant.length === 1 ? `Accept: ${finding.title}`.slice(0, 200) : `Accept ${meant.length} findings`,
      (next) => {
        const ids = new Set(meant.map((each) => each.finding));
        next.accepted = [...(next.accepted ?? []).filter((each) => !ids.has(each.finding)), ...meant];
      },
    ).then((problem) => {
      if (problem === null) onDone();
    });
  };
  return (
    <form onSubmit={submit} className="mt-2 grid max-w-160 gap-2">
      <Field label="Why it is meant so" hint="Kept with the portal, for whoever looks after you">
        {(ids) => (
          <input
            className="field"
            {...ids}
            required
            pattern=".*\S.*"
            maxLength={500}
            value={reason}
            onChange={(event) => setReason(event.target.value)}
          />
        )}
      </Field>
      {same.length > 1 && (
        <label className="flex items-center gap-2">
          <input type="checkbox" checked={all} onChange={(event) => setAll(event.target.checked)} /> for all{' '}
          {same.length} of this kind{role ? ` that are about ${role}` : ''}
        </label>
      )}
      <div className="flex gap-1.5">
        <Button small type="submit" weight="main">
          Accept {all ? counted(same.length, 'finding') : 'it'}
        </Button>
        <Button small onClick={onDone}>
          Cancel
        </Button>
      </div>
    </form>
  );
}

function AcceptedList({ accepted }: { accepted: Accepted[] }) {
  const { edit } = useBench();
  if (accepted.length === 0)
    return (
      <p className="text-soft">
        No finding is accepted. One that is meant so can be, with its reason; it then stands here and is no longer
        counted.
      </p>
    );
  return (
    <ul className="grid gap-2">
      {accepted.map((each) => (
        <li
          key={each.id}
          className="grid grid-cols-[minmax(0,1fr)_auto] items-start gap-x-4 rounded-stone border border-line px-4 py-3"
        >
          <div>
            <p className="font-semibold break-words">{each.title}</p>
            <p className="text-soft break-words">Meant so: {each.reason}</p>
          </div>
          <Button
            small
            onClick={() =>
              void edit(`Open again: ${each.title}`.slice(0, 200), (next) => {
                next.accepted = next.accepted?.filter((other) => other.finding !== each.id);
              })
            }
          >
            Open again<span className="sr-only">: {each.title}</span>
          </Button>
        </li>
      ))}
    </ul>
  );
}
