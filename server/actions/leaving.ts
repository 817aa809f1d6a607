import { createHash, randomBytes } from 'node:crypto';
import { callsOf } from '../../core/definition/action';
import { rolesOf } from '../../core/access/people';
import type { CoreServices } from '../definitions/portal-services';
import { Refused, type ActOptions, type HeldBeside, type Leaving, type LeavingMail } from '../gate/gate';
import { emailAddress } from '../mail/email-schema';
import { mailWriter } from '../mail/written-mail';
import type { CallOutbox, NewCall } from '../outside/call-outbox';
import type { NewMail, Outbox } from '../outbox/outbox';
import { everyone } from '../people/everyone';
import { OutcomeUnknown } from '../sources/outcome-unknown';
import type { PortalVisit } from '../visits/member-visit';

/** So many mails one press may send, to whomever. */
const mostMails = 2000;

/** Where what leaves goes through. */
export interface WaysOut {
  sources: CoreServices['sources'];
  outbox: Outbox;
  outsideCalls: CallOutbox;
}

/** A press from which something may leave. */
export interface Pressing {
  asking: PortalVisit;
  table: string;
  action: string;
  /** The id that it came with. */
  press: string | undefined;
}

/**
 * Does what mails and calls may leave from: they are written down before it is kept, and go out once it is. Where that
 * lies on the same server, both are kept in one transaction; elsewhere, where nobody knows whether it was kept, they
 * stay and are shown as unsure. Gives the ids of the calls besides.
 */
export async function withLeaving<T>(
  { sources, outbox, outsideCalls }: WaysOut,
  pressing: Pressing,
  work: (leave: NonNullable<ActOptions['leave']>) => Promise<T>,
): Promise<{ done: T; calls: string[] }> {
  const keys = { mails: new Set<string>(), calls: new Set<string>() };
  const mark = pressing.press ?? randomBytes(16).toString('hex');
  const schema = sources.beside(pressing.asking.definition, pressing.table);
  const leave = async (leaving: Leaving): Promise<HeldBeside | null> => {
    const mails = await mailsOf(pressing, mark, leaving.mails);
    const calls = newCalls(pressing, mark, leaving.calls);
    if (mails.length > mostMails)
      throw new Refused(`That would send ${mails.length.toLocaleString('en')} mails at once, so nothing was done.`);
    for (const { onceKey } of mails) keys.mails.add(onceKey);
    for (const { onceKey } of calls) keys.calls.add(onceKey);
    await outbox.hold(mails, schema !== null);
    await outsideCalls.hold(calls, schema !== null);
    return schema === null ? null : { schema, mails: [...keys.mails], calls: [...keys.calls] };
  };
  let done: T;
  try {
    done = await work(leave);
  } catch (error) {
    if (!(error instanceof OutcomeUnknown)) {
      if (keys.mails.size > 0) await outbox.drop([...keys.mails]);
      if (keys.calls.size > 0) await outsideCalls.drop([...keys.calls]);
    }
    throw error;
  }
  // It is kept by now: what can't be let go at this moment stays, and is shown as unsure.
  if (keys.mails.size > 0) await outbox.keep([...keys.mails]).catch(() => undefined);
  if (keys.calls.size > 0) await outsideCalls.keep([...keys.calls]).catch(() => undefined);
  return { done, calls: [...keys.calls] };
}

function newCalls({ asking, table, action }: Pressing, mark: string, calls: Leaving['calls']): NewCall[] {
  const { portalId, definition, person, moment } = asking;
  const steps = definition.actions?.find(({ id }) => id === action)?.steps ?? [];
  return calls.map(({ step, values, id }) => {
    const place = steps.indexOf(step);
    return {
      portalId,
      memberId: person.kind === 'member' ? person.id : null,
      action,
      step: place,
      address: step.address,
      tableName: table,
      recordId: id,
      onceKey: `call_${hashOf([portalId, person.kind, person.id, table, action, mark, id, place], 'base64url')}`,
      // The form of what is sent is the one that the Standard Webhooks specification proposes.
      body: JSON.stringify({ type: `${table}.${action}`, timestamp: moment.toISOString(), data: values }),
      answers: step.answers !== undefined,
    };
  });
}

/** Whether somebody waits for what an action's calls are answered. */
export const waitsForAnswer = ({ asking: { definition }, action }: Pressing): boolean =>
  (definition.actions ?? []).some((each) => each.id === action && callsOf(each).some(({ answers }) => answers));

async function mailsOf(
  { asking, action }: Pressing,
  mark: string,
  mails: Leaving['mails'],
): Promise<(NewMail & { onceKey: string })[]> {
  const { portalId, definition, person, name } = asking;
  const ofRoles = await peopleOfRoles(asking, mails);
  return mails.flatMap(({ step, to, values, id }, i) => {
    const written = mailWriter({ subject: step.subject, text: step.text }).written({
      ...values,
      presser: name,
      portal: definition.portal.name,
    });
    return recipients(asking, to, ofRoles).map((recipient) => ({
      ...written,
      portalId,
      // Whose it is, where that is known: whoever pressed is nobody that it is about.
      memberId: to === 'presser' ? person.id : null,
      kind: 'action',
      recipient,
      secret: null,
      onceKey: `act/${hashOf([portalId, person.kind, person.id, action, mark, id, i, recipient], 'hex')}`,
    }));
  });
}

const hashOf = (of: unknown, as: 'hex' | 'base64url'): string =>
  createHash('sha256').update(JSON.stringify(of)).digest(as);

function recipients({ email }: PortalVisit, to: LeavingMail['to'], ofRoles: ReadonlyMap<string, string[]>): string[] {
  const all = to === 'presser' ? [email ?? ''] : 'role' in to ? (ofRoles.get(to.role) ?? []) : [to.address.trim()];
  // What is no address is written to nobody.
  return all.filter((each) => emailAddress.validate(each).error === undefined);
}

/** The addresses of everybody who has one of the roles that are written to. */
async function peopleOfRoles(
  { source, catalogue, definition, portalId }: PortalVisit,
  mails: readonly LeavingMail[],
): Promise<Map<string, string[]>> {
  const roles = [...new Set(mails.flatMap(({ to }) => (typeof to === 'object' && 'role' in to ? to.role : [])))];
  if (roles.length === 0) return new Map();
  const people = await everyone(source, catalogue, [definition], portalId);
  return new Map(
    roles.map((role) => [
      role,
      people
        .filter((person) => person.email !== null && rolesOf(definition, catalogue, person).includes(role))
        .map(({ email }) => email!),
    ]),
  );
}
