import { Op, type WhereOptions } from 'sequelize';
import { Problem } from '../../core/refusals/problem';
import { NotFound } from '../gate/gate';
import type { Calling } from './calling';
import { Member, OutboxMail } from '../store/people-models';
import { secretMark, type Outbox } from '../outbox/outbox';

/** A mail in a list. */
export interface OutboxEntry {
  id: number;
  kind: string;
  recipient: string;
  name: string | null;
  memberId: number | null;
  subject: string;
  state: OutboxMail['state'];
  tries: number;
  answer: string | null;
  madeAt: string;
  /** When it is tried next; null where it isn't. */
  nextTry: string | null;
  sentAt: string | null;
}

export interface MailPage {
  mails: OutboxEntry[];
  /** Where the next page goes on; null at the end. */
  before: number | null;
  /** How many there are of each state. */
  counts: Partial<Record<OutboxMail['state'], number>>;
}

/** A mail with its words; `isOpen` where its secret stands in them. */
export interface OutboxMailInfo extends OutboxEntry {
  text: string;
  html: string;
  isOpen: boolean;
}

const pageSize = 50;
/** What is shown where a code or link stood. */
const blotted = '▇▇▇▇';

/** One page of a portal's mails, the newest first. */
export async function findMails(
  portalId: number,
  {
    state,
    search,
    member,
    before,
  }: { state: OutboxMail['state'] | null; search: string; member: number | null; before: number | null },
  calling: Calling,
): Promise<MailPage> {
  const like = `%${search.replaceAll(/[\\%_]/g, (sign) => `\\${sign}`)}%`;
  const where = {
    portalId,
    ...(state === null ? {} : { state }),
    ...(member === null ? {} : { memberId: member }),
    ...(before === null ? {} : { id: { [Op.lt]: before } }),
    // Nobody is found by what isn't told of them.
    ...(search === '' || !calling.found.includes('email')
      ? {}
      : { [Op.or]: [{ recipient: { [Op.like]: like } }, { subject: { [Op.like]: like } }] }),
  } as WhereOptions<OutboxMail>;
  const found = await OutboxMail.findAll({ where, order: [['id', 'DESC']], limit: pageSize + 1 });
  const mails = found.slice(0, pageSize);
  const counted = await OutboxMail.count({ where: { portalId }, group: ['state'] });
  return {
    mails: (await entriesOf(mails)).map((entry) => calledSo(entry, calling)),
    before: found.length > pageSize ? mails.at(-1)!.id : null,
    counts: Object.fromEntries(counted.map(({ state: of, count }) => [String(of), Number(count)])),
  };
}

/** A mail as it is told to whoever looks: its words are kept from who is kept from whom it goes to. */
function calledSo(entry: OutboxEntry, { name, email, found }: Calling): OutboxEntry {
  const called = { ...entry, recipient: email(entry.recipient), name: entry.name === null ? null : name(entry.name) };
  return found.length === 2 ? called : { ...called, subject: '', answer: null };
}

async function entriesOf(mails: readonly OutboxMail[]): Promise<OutboxEntry[]> {
  const ids = mails.flatMap(({ memberId }) => (memberId === null ? [] : [Number(memberId)]));
  const members = await Member.findAll({ where: { id: ids }, attributes: ['id', 'name'] });
  const names = new Map(members.map(({ id, name }) => [id, name]));
  return mails.map((mail) => ({
    id: mail.id,
    kind: mail.kind,
    recipient: mail.recipient,
    name: mail.memberId === null ? null : (names.get(Number(mail.memberId)) ?? null),
    memberId: mail.memberId === null ? null : Number(mail.memberId),
    subject: mail.subject.replaceAll(secretMark, blotted),
    state: mail.state,
    tries: mail.tries,
    answer: mail.answer,
    madeAt: mail.madeAt.toISOString(),
    nextTry: mail.state === 'waiting' ? mail.nextTry.toISOString() : null,
    sentAt: mail.sentAt?.toISOString() ?? null,
  }));
}

/** One mail; with its secret only where `open`, which is the demo alone. */
export async function oneMail(outbox: Outbox, portalId: number, id: number, open: boolean): Promise<OutboxMailInfo> {
  const mail = await OutboxMail.findOne({ where: { portalId, id } });
  if (!mail) throw new NotFound('mail');
  const [entry] = await entriesOf([mail]);
  const opened = open && mail.sealed !== null ? outbox.opened(mail) : null;
  const words = opened ?? { text: blot(mail.text), html: blot(mail.html) };
  const holdsSecret = mail.text.includes(secretMark) || mail.subject.includes(secretMark);
  return { ...entry!, text: words.text, html: words.html, isOpen: opened !== null || !holdsSecret };
}

const blot = (words: string): string => words.replaceAll(secretMark, blotted);

/** Puts a mail in line again. A Problem 409 where it is not one that ended without being sent, or lost its secret. */
export async function sendAgain(portalId: number, id: number): Promise<OutboxMail> {
  const mail = await OutboxMail.findOne({ where: { portalId, id } });
  if (!mail) throw new NotFound('mail');
  if (mail.state !== 'given up' && mail.state !== 'unsure')
    throw new Problem(409, 'mail-state', 'Only a mail that was given up, or that may not have arrived, is sent again.');
  const holdsSecret = mail.text.includes(secretMark) || mail.subject.includes(secretMark);
  if (holdsSecret && mail.sealed === null)
    throw new Problem(409, 'mail-secret', 'Its link is no longer known. Send a new one to the member instead.');
  await mail.update({ state: 'waiting', nextTry: new Date(), answer: null });
  return mail;
}
