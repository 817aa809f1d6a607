import { createHash, randomBytes } from 'node:crypto';
import { rolesOf } from '../../core/access/people';
import type { CoreServices } from '../definitions/portal-services';
import { Refused, type HeldBeside, type Leaver, type Leaving, type LeavingMail, type PlacedVisit } from '../gate/gate';
import { emailAddress } from '../mail/email-schema';
import { mailWriter } from '../mail/written-mail';
import type { NewCall } from '../outside/call-outbox';
import type { NewMail } from '../outbox/outbox';
import { everyone } from '../people/everyone';

/** So many mails one write may send, to whomever. */
const mostMails = 2000;

type WaysOut = Pick<CoreServices, 'sources' | 'outbox' | 'outsideCalls'>;

/** Whoever does something from which something may leave. */
type Asking = PlacedVisit & { portalId: number; name: string; email: string | null };

/** A leaver that can be asked what it let go. */
export interface OneLeaver extends Leaver {
  /** The ids of the calls that were written down. */
  calls: readonly string[];
}

/**
 * Lets mails and calls of one write leave: they are written down before it is kept, and go out once it is. Where its
 * records lie on the same server both are kept in one transaction; elsewhere, where nobody knows whether it was kept,
 * they stay and are shown as unsure. `press` is the id that a press came with.
 */
export function leaverOf({ sources, outbox, outsideCalls }: WaysOut, asking: Asking, press?: string): OneLeaver {
  let mails: string[] = [];
  const calls: string[] = [];
  // Made when something leaves, which is seldom.
  let mark = press;
  const drop = async (): Promise<void> => {
    if (mails.length > 0) await outbox.drop(mails);
    if (calls.length > 0) await outsideCalls.drop(calls);
  };
  return {
    calls,
    hold: async (leaving: Leaving): Promise<HeldBeside | null> => {
      // A transaction that was taken back and is tried again leaves what it has then.
      await drop();
      mark ??= randomBytes(16).toString('hex');
      const newMails = await mailsOf(asking, mark, leaving.mails);
      const newCalls = callsOf(asking, mark, leaving.calls);
      if (newMails.length > mostMails)
        throw new Refused(
          `That would send ${newMails.length.toLocaleString('en')} mails at once, so nothing was done.`,
        );
      // All of it is of one source.
      const { table } = [...leaving.mails, ...leaving.calls][0]!;
      const schema = sources.beside(asking.definition, table);
      mails = [...new Set(newMails.map(({ onceKey }) => onceKey))];
      calls.splice(0, calls.length, ...newCalls.map(({ onceKey }) => onceKey));
      await outbox.hold(newMails, schema !== null);
      await outsideCalls.hold(newCalls, schema !== null);
      return schema === null ? null : { schema, mails, calls: [...calls] };
    },
    // It is kept by now: what can't be let go at this moment stays, and is shown as unsure.
    keep: async () => {
      if (mails.length > 0) await outbox.keep(mails).catch(() => undefined);
      if (calls.length > 0) await outsideCalls.keep(calls).catch(() => undefined);
    },
    drop,
  };
}

function callsOf(asking: Asking, mark: string, calls: Leaving['calls']): NewCall[] {
  const { portalId, person, moment } = asking;
  return calls.map(({ action, table, step, values, id, by }) => {
    const place = action.steps.indexOf(step);
    const of = [...whoseIs(asking, by), table, action.id, mark, id, place];
    return {
      portalId,
      memberId: by === null && person.kind === 'member' ? person.id : null,
      role: by,
      action: action.id,
      step: place,
      address: step.address,
      tableName: table,
      recordId: id,
      onceKey: `call_${hashOf(of, 'base64url')}`,
      // The form of what is sent is the one that the Standard Webhooks specification proposes.
      body: JSON.stringify({ type: `${table}.${action.id}`, timestamp: moment.toISOString(), data: values }),
      answers: step.answers !== undefined,
    };
  });
}

async function mailsOf(
  asking: Asking,
  mark: string,
  mails: Leaving['mails'],
): Promise<(NewMail & { onceKey: string })[]> {
  const { portalId, definition, person, name } = asking;
  const ofRoles = await peopleOfRoles(asking, mails);
  return mails.flatMap(({ action, step, to, values, id, by }, i) => {
    const written = mailWriter({ subject: step.subject, text: step.text }).written({
      ...values,
      // Nobody pressed for what is done by itself, and who set it off is not told.
      presser: by === null ? name : definition.portal.name,
      portal: definition.portal.name,
    });
    return recipients(by === null ? asking.email : null, to, ofRoles).map((recipient) => ({
      ...written,
      portalId,
      // Whose it is, where that is known: whoever pressed is nobody that it is about.
      memberId: to === 'presser' && by === null ? person.id : null,
      kind: 'action',
      recipient,
      secret: null,
      onceKey: `act/${hashOf([...whoseIs(asking, by), action.id, mark, id, i, recipient], 'hex')}`,
    }));
  });
}

const whoseIs = ({ portalId, person }: Asking, by: string | null): unknown[] =>
  by === null ? [portalId, person.kind, person.id] : [portalId, 'service', by];

const hashOf = (of: unknown, as: 'hex' | 'base64url'): string =>
  createHash('sha256').update(JSON.stringify(of)).digest(as);

function recipients(own: string | null, to: LeavingMail['to'], ofRoles: ReadonlyMap<string, string[]>): string[] {
  const all = to === 'presser' ? [own ?? ''] : 'role' in to ? (ofRoles.get(to.role) ?? []) : [to.address.trim()];
  // What is no address is written to nobody.
  return all.filter((each) => emailAddress.validate(each).error === undefined);
}

/** The addresses of everybody who has one of the roles that are written to. */
async function peopleOfRoles(
  { source, catalogue, definition, portalId }: Asking,
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
