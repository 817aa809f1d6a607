import { memberState, type MemberState } from '../../core/people/member-state';
import type { Member } from '../store/people-models';

/** The state of a member as the store keeps them. */
export function stateOf({ onRoster, suspended, lastIn, invitedAt }: Member): MemberState {
  return memberState({
    onRoster,
    isSuspended: suspended !== null,
    hasBeenIn: lastIn !== null,
    isInvited: invitedAt !== null,
  });
}
