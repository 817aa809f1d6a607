import { createHash, randomBytes } from 'node:crypto';
import { rolesOf } from '../../core/access/people';
import { Refused, type ActOptions, type LeavingMail } from '../gate/gate';
import { emailAddress } from '../mail/email-schema';
import { mailWriter } from '../mail/written-mail';
import type { NewMail, Outbox } from '../outbox/outbox';
import { everyone } from '../people/everyone';
import { OutcomeUnknown } from '../sources/outcome-unknown';
import type { PortalVisit } from '../visits/member-visit';

/** So many mails one press may send, to whomever. */
const mostMails = 2000;

type Leaving = LeavingMail & { id: string };

/**
 * Does what may send mails: they are written down before it is kept, and go out once it is. Where nobody knows whether
 * it was kept they stay, and are shown as unsure.
 */
export async function withMails<T>(
  outbox: Outbox,
  asking: PortalVisit,
  action: string,
  press: string | undefined,
  work: (leave: NonNullable<ActOptions['leave']>) => Promise<T>,
): Promise<T> {
  const keys = new Set<string>();
  const mark = press ?? randomBytes(16).toString('hex');
  const leave = async (mails: Leaving[]): Promise<void> => {
    const written = await mailsOf(asking, action, mark, mails);
    if (written.length > mostMails)
      throw new Refused(`That would send ${written.length.toLocaleString('en')} mails at once, so nothing was done.`);
    for (const { onceKey } of written) keys.add(onceKey);
    await outbox.hold(written);
  };
  let done: T;
  try {
    done = await work(leave);
  } catch (error) {
    if (keys.size > 0 && !(error instanceof OutcomeUnknown)) await outbox.drop([...keys]);
    throw error;
  }
  // It is kept by now: mails that can't be let go at this moment stay, and are shown as unsure.
  if (keys.size > 0) await outbox.keep([...keys]).catch(() => undefined);
  return done;
}

async function mailsOf(
  asking: PortalVisit,
  action: string,
  mark: string,
  mails: readonly Leaving[],
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
      onceKey: `act/${hashOf([portalId, person.kind, person.id, action, mark, id, i, recipient])}`,
    }));
  });
}

const hashOf = (of: unknown): string => createHash('sha256').update(JSON.stringify(of)).digest('hex');

function recipients({ email }: PortalVisit, to: Leaving['to'], ofRoles: ReadonlyMap<string, string[]>): string[] {
  const all = to === 'presser' ? [email ?? ''] : 'role' in to ? (ofRoles.get(to.role) ?? []) : [to.address.trim()];
  // What is no address is written to nobody.
  return all.filter((each) => emailAddress.validate(each).error === undefined);
}

/** The addresses of everybody who has one of the roles that are written to. */
async function peopleOfRoles(
  { source, catalogue, definition, portalId }: PortalVisit,
  mails: readonly Leaving[],
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
