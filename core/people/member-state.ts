export const memberStates = ['known', 'invited', 'active', 'suspended', 'gone'] as const;

export type MemberState = (typeof memberStates)[number];

/** What is kept of a member beside the rosters, as far as their state follows from it. */
export interface MemberFacts {
  onRoster: boolean;
  isSuspended: boolean;
  hasBeenIn: boolean;
  isInvited: boolean;
}

/** `known`: on a roster and never written to. `gone` whatever else was. */
export function memberState({ onRoster, isSuspended, hasBeenIn, isInvited }: MemberFacts): MemberState {
  if (!onRoster) return 'gone';
  if (isSuspended) return 'suspended';
  if (hasBeenIn) return 'active';
  return isInvited ? 'invited' : 'known';
}
