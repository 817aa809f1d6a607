import { countsOnRoster } from '../access/roster-roles';
import type { Person } from '../access/person';
import type { Roster } from '../definition/definition';
import type { Catalogue } from '../table/catalogue';
import type { Row } from '../table/value';
import { normaliseEmail } from '../text/email';

/** Whether a roster row makes the person with the e-mail a member: it counts, and it is still theirs. */
export function isTheirs(roster: Roster, catalogue: Catalogue, row: Row, email: string | null): boolean {
  return (
    email !== null &&
    normaliseEmail(String(row[roster.email] ?? '')) === email &&
    countsOnRoster(roster, catalogue, row)
  );
}

/** The organisation that the first of the person's roster rows names; null when none does. */
export function organisationOf(rosters: readonly Roster[], rows: Person['rows']): string | null {
  for (const { table, organisation } of rosters) {
    const value = organisation !== undefined && Object.hasOwn(rows, table) ? rows[table]![organisation] : null;
    if (value !== null && value !== undefined && value !== '') return String(value);
  }
  return null;
}
