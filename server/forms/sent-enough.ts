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
