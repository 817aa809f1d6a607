import { counted } from '../../core/text/counted';
import type { ActionTold, ActOutcome, PressOutcome, WouldLeave } from '../client/actions';
import type { DoneHere } from '../place/done';

/** What is said once an action was done, or was tried. */
export function actedWords({ name, says }: ActionTold, done: PressOutcome, tried: boolean): DoneHere {
  if ('refused' in done) return byJobWords(name, says, done);
  const refused = 'outcomes' in done ? done.outcomes.filter((each) => !each.done) : [];
  const [first] = refused;
  if ('outcomes' in done && first && !first.done) {
    const words = `${name}: done with ${done.outcomes.length - refused.length} of ${done.outcomes.length}.`;
    return { words: `${words} ${first.detail}`, fault: true };
  }
  if (tried)
    return { words: `${name}: tried, and it can be done. Nothing was changed.${leavingWords(done.wouldLeave ?? [])}` };
  if ('outcomes' in done) return { words: says ?? `${name}: done with ${counted(done.outcomes.length, 'record')}.` };
  const words = `${says ?? `${name}: done.`}${done.record ? '' : ' The record is no longer among yours.'}`;
  const [failed] = done.calls.filter(({ state }) => state === 'failed');
  if (failed) return { words: `${words} ${failed.to}: ${failed.problem}`, fault: true };
  const waiting = done.calls.filter(({ state }) => state === 'waiting').map(({ to }) => to);
  if (waiting.length === 0) return { words };
  return { words: `${words} ${waiting.join(' and ')} did not answer yet. What is answered is put in once it comes.` };
}

function byJobWords(
  name: string,
  says: string | null,
  { done, refused, reasons }: Extract<PressOutcome, { refused: string[] }>,
): DoneHere {
  if (refused.length === 0) return { words: says ?? `${name}: done with ${counted(done, 'record')}.` };
  if (done === 0 && reasons.length === 0) return { words: `${name}: stopped, and nothing was done.` };
  const words = `${name}: done with ${done.toLocaleString()} of ${(done + refused.length).toLocaleString()}.`;
  return { words: `${words} ${reasons[0]?.detail ?? ''}`, fault: true };
}

/** What is said once a press was taken back. */
export function undoneWords({ name }: ActionTold, { outcomes }: { outcomes: ActOutcome[] }): DoneHere {
  const refused = outcomes.filter((each) => !each.done);
  const [first] = refused;
  if (!first || first.done) return { words: `${name}: undone.` };
  const done = outcomes.length - refused.length;
  return { words: `${name}: undone with ${done} of ${outcomes.length}. ${first.detail}`, fault: true };
}

const mostSaid = 3;

/** What would have left, of a press that was only tried. */
function leavingWords(all: readonly WouldLeave[]): string {
  if (all.length === 0) return '';
  const said = all.slice(0, mostSaid).map(({ kind, to, what }) => {
    const does = kind === 'mail' ? 'write to' : 'tell';
    return `${does} ${to}${what === '' ? '' : `: ${kind === 'mail' ? `“${what}”` : what}`}`;
  });
  const more = all.length > mostSaid ? `; and ${counted(all.length - mostSaid, 'more', 'more')}` : '';
  return ` It would ${said.join('; and ')}${more}.`;
}
