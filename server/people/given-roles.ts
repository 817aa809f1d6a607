/** A role that somebody gave a member by hand, beside what their rosters give. */
export interface GivenRole {
  role: string;
  reason: string;
  by: string;
  at: string;
}

/** What the store keeps of them, read back. */
export function readGiven(kept: string | null): GivenRole[] {
  return kept === null ? [] : (JSON.parse(kept) as GivenRole[]);
}

/** The roles alone. */
export function givenRoles(kept: string | null): string[] {
  return readGiven(kept).map(({ role }) => role);
}
