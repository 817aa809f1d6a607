/** A row that counts, with an address. */
export interface StandingRow {
  roster: string;
  key: string;
  /** As people are told apart by it. */
  email: string;
  name: string;
}

/** A member as the store has them, with the rows that they are known by. */
export interface KnownStanding {
  id: number;
  email: string;
  name: string;
  onRoster: boolean;
  /** They came by an address of a domain that the portal is open to, and stand on no roster. */
  withoutRow?: boolean;
  /** `holds` false where the row was no member's when it was last looked at. */
  rows: { roster: string; key: string; holds?: boolean }[];
}

/** What becomes of a member. Rows that are theirs now hold; others they are known by are kept, should one come back. */
export interface MemberStanding {
  email: string;
  name: string;
  onRoster: boolean;
  rows: { roster: string; key: string; holds: boolean }[];
}

export interface StandingPlan {
  known: (MemberStanding & {
    id: number;
    /** Their row carries another address by now: who they are must be proven anew. */
    isAddressNew: boolean;
  })[];
  fresh: MemberStanding[];
}

const rowKey = ({ roster, key }: { roster: string; key: string }): string => `${roster}\n${key}`;

/**
 * Who is who, given the members of before and the rows of now: all members that a row or an address of any of them
 * touches, and all rows that count of theirs. Who somebody is follows their row, not the address: a row whose address
 * was changed keeps its member, and an address that moved to another row is another person's. Rows of several rosters
 * with one address are one person; rows of one roster with one address are nobody's. In the order of `rosters` where
 * rows disagree.
 */
export function planStanding(
  rosters: readonly string[],
  members: readonly KnownStanding[],
  rows: readonly StandingRow[],
): StandingPlan {
  const place = new Map(rosters.map((roster, i) => [roster, i]));
  const ordered = standingAlone(rows).toSorted(
    (a, b) => place.get(a.roster)! - place.get(b.roster)! || compare(a.key, b.key),
  );
  const byRow = new Map(ordered.map((row) => [rowKey(row), row]));
  const ownRows = new Map(
    members.map((member) => {
      const own = new Set(member.rows.map(rowKey));
      return [member.id, ordered.filter((row) => own.has(rowKey(row)))];
    }),
  );
  // Whoever is in goes before who was; then who came first.
  const inTurn = members.toSorted((a, b) => Number(b.onRoster) - Number(a.onRoster) || a.id - b.id);
  const holders = new Map<string, number>();
  const emails = new Map<number, string>();
  const hold = (id: number, email: string): void => {
    if (emails.has(id) || holders.has(email)) return;
    holders.set(email, id);
    emails.set(id, email);
  };
  for (const { id, email } of inTurn) if (ownRows.get(id)!.some((row) => row.email === email)) hold(id, email);
  for (const { id } of inTurn) {
    const [first] = ownRows.get(id)!;
    if (first) hold(id, first.email);
  }
  // Whoever has proven an address without a row is who a row with it is about, unless that is somebody already.
  for (const { id, email, onRoster, withoutRow } of inTurn) if (withoutRow && onRoster) hold(id, email);
  const given = new Map<string, StandingRow[]>();
  for (const row of ordered) given.set(row.email, [...(given.get(row.email) ?? []), row]);
  const known = members.map((member): StandingPlan['known'][number] => {
    const email = emails.get(member.id);
    const now = email === undefined ? [] : (given.get(email) ?? []);
    // A row that is another's by now is theirs no more.
    const kept = member.rows.filter(
      (row) => !byRow.has(rowKey(row)) && !now.some((each) => each.roster === row.roster),
    );
    return {
      id: member.id,
      email: email ?? member.email,
      name: now[0]?.name ?? member.name,
      onRoster: email !== undefined,
      rows: [...now.map((row) => ({ ...spot(row), holds: true })), ...kept.map((row) => ({ ...row, holds: false }))],
      isAddressNew: email !== undefined && email !== member.email,
    };
  });
  const fresh = [...given]
    .filter(([email]) => !holders.has(email))
    .map(([email, own]): MemberStanding => ({
      email,
      name: own[0]!.name,
      onRoster: true,
      rows: own.map((row) => ({ ...spot(row), holds: true })),
    }));
  return { known, fresh };
}

/** The rows whose address stands once in their roster: several of one are nobody's. */
export function standingAlone(rows: readonly StandingRow[]): StandingRow[] {
  const times = new Map<string, number>();
  const address = ({ roster, email }: StandingRow) => `${roster}\n${email}`;
  for (const row of rows) times.set(address(row), (times.get(address(row)) ?? 0) + 1);
  return rows.filter((row) => times.get(address(row)) === 1);
}

const spot = ({ roster, key }: StandingRow) => ({ roster, key });

const compare = (a: string, b: string): number => (a < b ? -1 : a > b ? 1 : 0);
