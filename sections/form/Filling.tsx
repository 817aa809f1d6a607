import { useEffect, useRef, useState, type FormEvent } from 'react';
import { pressId } from '../../web/client/actions';
import { useCorrectForm, useFormTicket, useSendForm } from '../../web/client/forms';
import { problemText } from '../../web/client/http';
import { useMe } from '../../web/client/portal';
import { useDone } from '../../web/place/done';
import { pageSpot, usePlace, useUnsaved } from '../../web/place/place';
import { Button } from '../../web/ui/Button';
import { Notice } from '../../web/ui/Notice';
import { useDraft } from './draft';
import { firstTyped, isAt, linesToSend, stateOf, typedByLink, valuesToSend, type FormInfo } from './entered';
import { Part } from './Part';
import { changedMeanwhile, refusedFields } from './refused';
import { Sent } from './Sent';
import { StepList } from './StepList';

const wide = { 1: '', 2: '@min-[560px]:grid-cols-2', 3: '@min-[560px]:grid-cols-2 @min-[820px]:grid-cols-3' };

/** A form being filled in: a step at a time, back and forth without loss, and sent once. */
export function Filling({
  section,
  form,
  record = null,
}: {
  section: string;
  form: FormInfo;
  /** What it is opened with. */
  record?: string | null;
}) {
  const { base, spot, seenBy, isVisitor = false, go } = usePlace();
  const say = useDone();
  const who = useMe(base).data?.member.email ?? '';
  const first = firstTyped(form, spot.given);
  const [seen, setSeen] = useState<Record<string, unknown>>(form.first);
  const keeps = seenBy || form.anonymous ? 'not' : isVisitor ? 'tab' : 'device';
  const draft = useDraft(
    `form ${base} ${spot.page} ${section} ${who}${record === null ? '' : ` ${record}`}`,
    keeps,
    first,
  );
  const byLink = typedByLink(form, spot.signed);
  const typed = { ...draft.typed, ...byLink };
  const { setTyped } = draft;
  const [sent, setSent] = useState<{ says: string | null; receipt: string | null } | null>(null);
  const [correcting, setCorrecting] = useState<string | null>(null);
  const [at, setAt] = useState<string | null>(null);
  const [tried, setTried] = useState<ReadonlySet<string>>(new Set());
  const [refused, setRefused] = useState<Record<string, string>>({});
  const [press, setPress] = useState(pressId);
  const [trap, setTrap] = useState('');
  const ticket = useFormTicket(base, spot.page, section, isVisitor && !seenBy);
  const send = useSendForm(base, spot.page, section, seenBy);
  const correct = useCorrectForm(base, spot.page, section);
  const settled = useUnsaved(draft.isDirty && sent === null);
  const frame = useRef<HTMLFormElement>(null);

  const state = stateOf(form, typed);
  const place = Math.max(
    0,
    state.steps.findIndex(({ id }) => id === at),
  );
  const step = state.steps[place];
  const isLast = place === state.steps.length - 1;
  const faultAt = (column: string): string | undefined =>
    refused[column] ?? (tried.has(column) ? state.faults[column] : undefined);
  const isIn = (id: string, spoken: string): boolean =>
    state.steps.find((each) => each.id === id)?.parts.some((part) => isAt(part, spoken)) ?? false;
  const wrongIn = (id: string) => Object.keys(state.faults).filter((spoken) => isIn(id, spoken));
  const [looked, setLooked] = useState(0);
  useEffect(() => {
    if (looked === 0) return;
    const wrong = frame.current?.querySelector<HTMLElement>('[aria-invalid="true"]');
    (wrong ?? frame.current?.querySelector<HTMLElement>('[data-step]'))?.focus();
  }, [looked]);
  const show = (id: string) => {
    setAt(id);
    setLooked((times) => times + 1);
  };
  const isWrong = (id: string) => wrongIn(id).length > 0;
  const next = () => {
    setTried((before) => new Set([...before, ...wrongIn(step!.id)]));
    if (isWrong(step!.id)) setLooked((times) => times + 1);
    else show(state.steps[place + 1]!.id);
  };
  const whole = async () => {
    setTried(new Set([...form.columns.map(({ name }) => name), ...Object.keys(state.faults)]));
    const wrong = state.steps.find(({ id }) => isWrong(id));
    if (wrong) return show(wrong.id);
    const values = valuesToSend(form, state, typed);
    const signed = spot.signed === undefined ? {} : { signed: spot.signed };
    const of = record === null ? signed : { ...signed, record };
    try {
      if (correcting !== null) {
        await correct.mutateAsync({ receipt: correcting, values, ...of });
        setSent({ says: 'Corrected. Thank you.', receipt: correcting });
      } else {
        const answer = await send.mutateAsync({
          values,
          lines: linesToSend(form, state, typed),
          ...of,
          ...(form.changes ? { seen } : {}),
          press,
          ticket: ticket.data?.ticket ?? '',
          further: trap,
        });
        if (seenBy) return say({ words: 'Tried, and it can be sent. Nothing was kept.' });
        setSent(answer);
      }
      settled();
      setTyped(first);
      setRefused({});
      setPress(pressId());
      if (form.leads !== null && correcting === null) {
        say({ words: 'Sent.' });
        go(pageSpot(form.leads));
      }
    } catch (error) {
      refuse(error);
    }
  };
  const refuse = (error: unknown) => {
    const fields = refusedFields(error);
    const known = Object.entries(fields).filter(([spoken]) => state.steps.some(({ id }) => isIn(id, spoken)));
    setRefused(known.length > 0 ? Object.fromEntries(known) : { '': problemText(error) });
    // What stands there now was said: sent again it is written over.
    setSeen((before) => ({ ...before, ...changedMeanwhile(error) }));
    setPress(pressId());
    const wrong = state.steps.find(({ id }) => Object.keys(fields).some((spoken) => isIn(id, spoken)));
    if (wrong) show(wrong.id);
  };
  const [last, setLast] = useState(typed);
  const submit = (event: FormEvent) => {
    event.preventDefault();
    setLast(typed);
    if (isLast) void whole();
    else next();
  };
  if (sent !== null)
    return (
      <Sent
        says={sent.says}
        onCorrect={
          form.corrects && sent.receipt !== null
            ? () => {
                setCorrecting(sent.receipt);
                setTyped(last);
                setSent(null);
                setTried(new Set());
                show(state.steps[0]?.id ?? '');
              }
            : null
        }
        onAgain={
          record === null
            ? () => {
                setCorrecting(null);
                setSent(null);
                setTried(new Set());
                setAt(null);
              }
            : null
        }
      />
    );
  if (byLink === null)
    return <Notice kind="say">This is sent by a link that was made for you. Open it again by that link.</Notice>;
  if (!step) return <Notice kind="say">There is nothing to fill in for you here.</Notice>;
  const isBusy = send.isPending || correct.isPending;
  return (
    <form ref={frame} noValidate onSubmit={submit} className="grid max-w-3xl gap-4">
      {form.anonymous && (
        <Notice kind="say">
          This is anonymous. What you enter is kept, and nothing else: not who you are, from where you send it, or when.
          What you write may still tell it.
        </Notice>
      )}
      {state.steps.length > 1 && <StepList steps={state.steps} at={place} onShow={show} />}
      {draft.isKept && draft.isDirty && correcting === null && (
        <p className="text-sm text-soft">
          What you had begun is still here.{' '}
          <button type="button" className="min-h-6 underline text-water" onClick={() => setTyped(first)}>
            Begin anew
          </button>
        </p>
      )}
      <fieldset className="grid gap-4">
        <legend className="sr-only" data-step tabIndex={-1}>
          {step.title}
        </legend>
        <div className={`grid items-start gap-x-4 gap-y-3 ${wide[step.across]}`}>
          {step.parts.map((part, i) => (
            <Part
              key={part.kind === 'input' ? part.column : i}
              part={part}
              form={form}
              record={record}
              typed={typed}
              isRequired={(column) => state.required.has(column)}
              faultAt={faultAt}
              onChange={(next) => {
                setTyped(next);
                setRefused((before) =>
                  Object.fromEntries(Object.entries(before).filter(([spoken]) => !isAt(part, spoken))),
                );
              }}
            />
          ))}
        </div>
      </fieldset>
      {isVisitor && (
        // Nobody sees it: it is there for those who fill in whatever there is; called as nothing that browsers fill in.
        <div aria-hidden className="absolute left-[-9999px] h-px w-px overflow-hidden">
          <label>
            Leave this empty
            <input
              name="further"
              tabIndex={-1}
              autoComplete="off"
              value={trap}
              onChange={(e) => setTrap(e.target.value)}
            />
          </label>
        </div>
      )}
      {refused[''] && <Notice kind="fault">{refused['']}</Notice>}
      <div className="flex flex-wrap items-center gap-2">
        {place > 0 && <Button onClick={() => show(state.steps[place - 1]!.id)}>Back</Button>}
        <Button type="submit" weight="main" disabled={isBusy}>
          {isBusy ? 'Sending …' : !isLast ? 'Next' : correcting === null ? form.send : 'Correct it'}
        </Button>
        {seenBy && <span className="text-sm text-soft">In Seen by it is tried, and not kept.</span>}
      </div>
    </form>
  );
}
