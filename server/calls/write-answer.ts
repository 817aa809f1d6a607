import type { CoreServices } from '../definitions/portal-services';
import { at, BadQuestion, InvalidValues, NotFound, putAnswer, Refused } from '../gate/gate';
import { Problem } from '../../core/refusals/problem';
import type { OutsideCall } from '../store/call-models';
import { absentMemberVisit, type PortalVisit } from '../visits/member-visit';
import { absentServiceVisit } from '../visits/service-visit';
import { absentVisitorVisit } from '../visits/visitor-visit';
import type { CallAnswer } from '../outside/call-out';

/**
 * Puts what a call was answered into its record, as whoever pressed, with the rights that they have now. Gives why that
 * could not be done, in words; null where it was. Throws where the records can't be reached.
 */
export async function writeAnswer(
  services: CoreServices,
  call: OutsideCall,
  { text, isCut }: CallAnswer,
): Promise<string | null> {
  const { tableName, recordId, action, step, address } = call;
  const not = (why: string) => `What it answered was not put into the record: ${why}`;
  if (isCut) return not('it is too long.');
  let answer: unknown;
  try {
    answer = JSON.parse(text);
  } catch {
    return not('it is no JSON.');
  }
  try {
    const visit = await at(await whoever(services, call), tableName);
    await putAnswer(visit.source, visit, tableName, recordId, { action, step, address }, answer);
    return null;
  } catch (error) {
    if (error instanceof NotFound) return not('whoever pressed may not do that with it any more.');
    if (error instanceof Refused || error instanceof BadQuestion || error instanceof InvalidValues)
      return not(error.message);
    if (error instanceof Problem && error.status < 500) return not(error.detail);
    throw error;
  }
}

/** Whoever pressed, as they are now; for what was done by itself the service that did it. */
function whoever(services: CoreServices, { portalId, memberId, role }: OutsideCall): Promise<PortalVisit> {
  if (role !== null) return absentServiceVisit(services, portalId, role);
  return memberId === null ? absentVisitorVisit(services, portalId) : absentMemberVisit(services, portalId, memberId);
}
