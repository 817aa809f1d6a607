import { createHash, hash } from 'node:crypto';
import Joi from 'joi';
import { Op } from 'sequelize';
import { Problem } from '../../core/refusals/problem';
import type { Person } from '../../core/access/person';
import { KeptPress } from '../store/press-model';
import { beginPress, endPress, type PressAt } from '../store/press-sql';
import { seal, unseal } from '../store/secret';
import { NotFound, type Assumed, type Correctable, type PressDone } from '../gate/gate';
import { tokenHash } from '../sessions/sessions';
import { wasStopped } from '../sources/connection-problem';

/** So long a press that comes again is known. */
const keptFor = 24 * 3_600_000;
/** After so long nobody works on it any more. */
const workedOn = 120_000;

/** Long enough that nobody comes upon another's. */
export const pressId = Joi.string().min(16).max(64);

/** Those who have no number are told apart by their roles: what one did is not told to one with other rights. */
export const pressHash = ({ kind, id, roles }: Person, of: readonly string[], press: string): string =>
  hash('sha256', JSON.stringify([kind, id ?? roles, of, press]), 'base64url');

/** What is to be kept with a press that is done. */
interface PressNotes {
  takesBack?: readonly PressDone[];
  /** What a receipt lets its holder correct; of the receipt itself the hash alone is kept. */
  corrects?: { receipt: string; what: CorrectableOfForm } | null;
}

/** What was sent by a form and can be corrected there. */
export type CorrectableOfForm = Correctable & { form: string };

export type NotePress = (notes: PressNotes) => void;

/**
 * Does the work of a press once, however often it comes: again it gives what came of it. `of` is what was pressed, so
 * that one id stands for one thing. A Problem 409 while it is being done, and where nobody knows whether it was,
 * because the server went down in the middle. One that was refused did nothing, and may come again.
 */
export async function once<T>(
  { portalId, person, assumed }: { portalId: number; person: Person; assumed?: Assumed },
  of: readonly string[],
  press: string | undefined,
  work: (note: NotePress) => Promise<T>,
): Promise<T> {
  if (press === undefined) {
    assumed?.refuseOpen();
    return work(() => undefined);
  }
  let notes: PressNotes = {};
  const at = { portalId, pressHash: pressHash(person, of, press) };
  if (!(await begins(at, assumed))) return known<T>(at);
  let done: T;
  try {
    done = await work((noted) => (notes = noted));
  } catch (error) {
    // Of what was surely not kept nothing stays; whatever else it was, nobody knows.
    if (error instanceof Problem && error.status < 500) await KeptPress.destroy({ where: { ...at } });
    throw error;
  }
  // It is done by now, and whoever pressed is told so, also where that can't be noted: again it would be unknown.
  const { takesBack = [], corrects } = notes;
  await endPress(at, {
    answer: JSON.stringify(done),
    takesBack: takesBack.length > 0 ? sealedWith(press, takesBack) : null,
    receiptHash: corrects ? tokenHash(corrects.receipt) : null,
    correctable: corrects ? JSON.stringify(corrects.what) : null,
  }).catch(() => undefined);
  return done;
}

/** Begins a press, which bears out what is assumed of whoever pressed; false where it was begun already. */
async function begins(at: PressAt, assumed: Assumed | undefined): Promise<boolean> {
  const proof = assumed?.proof;
  if (!proof) return (await beginPress(at)) === 'begun';
  const { text, params } = proof;
  const how = await beginPress(at, { text, params: params.map(String) }).catch((error: unknown) => {
    // What took too long is not tried twice; after whatever else went wrong the question itself is asked.
    if (!wasStopped(error)) assumed.refuseOpen();
    throw error;
  });
  assumed.settle(how === 'unproved' ? 0 : 1);
  return how === 'begun';
}

/** So long what was sent may be corrected, in milliseconds. */
export const correctedWithin = 30 * 60_000;

/** So long a press can be taken back, in milliseconds. */
const takenBackWithin = 10 * 60_000;

const sealName = 'what takes back a press';

/** What stood in the records is not ours to keep: only whoever holds the press's own id can have it read. */
const keyOf = (press: string): Buffer => createHash('sha256').update(`${sealName}/${press}`).digest();

const sealedWith = (press: string, takesBack: readonly PressDone[]): string =>
  seal(
    keyOf(press),
    sealName,
    JSON.stringify(takesBack, (_, value: unknown) => (typeof value === 'bigint' ? String(value) : value)),
  );

/**
 * Takes a press back by `work`, once: NotFound where it was no press of this person's, can't be taken back, or is too
 * long ago. Of one that was refused it can be tried again.
 */
export async function takeBackOnce<T>(
  { portalId, person }: { portalId: number; person: Person },
  of: readonly string[],
  press: string,
  work: (takesBack: readonly PressDone[]) => Promise<T>,
): Promise<T> {
  const since = { begunAt: { [Op.gt]: new Date(Date.now() - takenBackWithin) } };
  const where = { portalId, pressHash: pressHash(person, of, press), ...since };
  const found = await KeptPress.findOne({ where });
  const kept = found?.takesBack;
  const text = kept ? unseal(keyOf(press), sealName, kept) : null;
  if (text === null) throw new NotFound('press');
  // Whoever is first takes it.
  const [taken] = await KeptPress.update({ takesBack: null }, { where: { ...where, takesBack: kept! } });
  if (taken !== 1) throw new NotFound('press');
  try {
    return await work(JSON.parse(text) as PressDone[]);
  } catch (error) {
    if (error instanceof Problem && error.status < 500) await KeptPress.update({ takesBack: kept! }, { where });
    throw error;
  }
}

async function known<T>(at: PressAt): Promise<T> {
  const found = await KeptPress.findOne({ where: { ...at } });
  if (found?.answer) return JSON.parse(found.answer) as T;
  if (!found || Date.now() - found.begunAt.getTime() < workedOn)
    throw new Problem(409, 'being-done', 'This is being done already. Wait a moment and look at the record.');
  throw new Problem(
    409,
    'outcome-unknown',
    'It is not known whether this was done: the server was stopped in between. Look at the record first.',
  );
}

export async function forgetOldPresses(now: Date): Promise<void> {
  await KeptPress.destroy({ where: { begunAt: { [Op.lt]: new Date(now.getTime() - keptFor) } } });
  const before = (within: number) => ({ begunAt: { [Op.lt]: new Date(now.getTime() - within) } });
  await KeptPress.update({ takesBack: null }, { where: { ...before(takenBackWithin), takesBack: { [Op.ne]: null } } });
  await KeptPress.update(
    { receiptHash: null, correctable: null },
    { where: { ...before(correctedWithin), receiptHash: { [Op.ne]: null } } },
  );
}
