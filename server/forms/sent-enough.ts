import { Op } from 'sequelize';
import { Problem } from '../../core/refusals/problem';
import type { Person } from '../../core/access/person';
import type { Form } from '../../core/definition/form';
import { FormSent } from '../store/form-models';

/** Why a form can't be sent by somebody any more, whatever they enter; null where it can. */
export async function whySentEnough(
  { portalId, person }: { portalId: number; person: Person },
  { id: form, most, oneEach }: Form,
): Promise<string | null> {
  if (most !== undefined && (await FormSent.count({ where: { portalId, form } })) >= most)
    return 'This form has been sent as often as it can be.';
  const isOwn = oneEach && person.id !== null;
  return isOwn && (await FormSent.count({ where: { portalId, form, memberId: person.id } })) > 0
    ? 'You have sent this form already.'
    : null;
}

/**
 * Takes a place among those that a form has, does the work, and gives the place back where the work failed. Of two who
 * want the last one at the same moment not both get it; a Problem 409 for who doesn't.
 */
export async function inPlace<T>(
  { portalId, person }: { portalId: number; person: Person },
  { id: form, most, oneEach, anonymous }: Form,
  work: () => Promise<T>,
): Promise<T> {
  if (most === undefined && !oneEach) return work();
  const taken = await FormSent.create({ portalId, form, memberId: anonymous ? null : person.id });
  const upTo = { portalId, form, id: { [Op.lte]: taken.id } };
  const isOver =
    (most !== undefined && (await FormSent.count({ where: upTo })) > most) ||
    (oneEach === true && person.id !== null && (await FormSent.count({ where: { ...upTo, memberId: person.id } })) > 1);
  try {
    if (isOver) throw new Problem(409, 'form-closed', 'This form has been sent as often as it can be.');
    return await work();
  } catch (error) {
    await taken.destroy();
    throw error;
  }
}
