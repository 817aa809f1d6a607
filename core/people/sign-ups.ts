import { decidingColumns } from '../access/deciding-columns';
import { rolesOfRows } from '../access/roster-roles';
import { dayIn } from '../access/person';
import { constantValue, isConstant } from '../condition/operand-value';
import type { Person } from '../access/person';
import type { PortalDefinition } from '../definition/definition';
import type { SignUp } from '../definition/sign-up';
import { findColumn, findTable, isClosed, type Catalogue } from '../table/catalogue';
import type { Row } from '../table/value';

/** The role by which a row is made, which nobody has. */
const newcomer = 'newcomer by a link';

/** Whoever comes by a link, until they are a member. */
export const newcomerPerson: Person = {
  kind: 'visitor',
  id: null,
  email: null,
  organisation: null,
  roles: [newcomer],
  rows: {},
};

/**
 * The columns that somebody new is asked: never the e-mail, which they prove, nor one that says who counts, gives roles
 * or an organisation, or that rules ask of the member.
 */
export function askedOf(definition: PortalDefinition, catalogue: Catalogue, { roster, asks, fills }: SignUp): string[] {
  const table = findTable(catalogue, roster);
  const deciding = decidingColumns(definition, catalogue).get(roster);
  const organisation = definition.rosters.find((each) => each.table === roster)?.organisation;
  return asks.filter((name) => {
    const column = table && findColumn(table, name);
    return (
      column !== undefined &&
      !column.automatic &&
      column.kind !== 'file' &&
      !isClosed(table!, name) &&
      !deciding?.has(name) &&
      name !== organisation &&
      !fills.some((fill) => fill.column === name)
    );
  });
}

/**
 * The definition under which a row is made for somebody new: with one role more, which may make it and nothing else,
 * and to which the link's values are stamped. Fences, stamps for everyone and field rules hold as for anybody.
 */
export function signUpDefinition(definition: PortalDefinition, catalogue: Catalogue, signUp: SignUp): PortalDefinition {
  const roster = definition.rosters.find((each) => each.table === signUp.roster);
  const asks = askedOf(definition, catalogue, signUp);
  const grants = Object.hasOwn(definition.access, signUp.roster) ? definition.access[signUp.roster]! : {};
  return {
    ...definition,
    roles: [...definition.roles, { id: newcomer, name: 'Newcomer', for: 'visitors' }],
    access: {
      ...definition.access,
      [signUp.roster]: {
        ...grants,
        [newcomer]: {
          create: { columns: [...(roster ? [roster.email] : []), ...asks], keepIn: roster?.where ?? 'every row' },
        },
      },
    },
    stamps: [
      ...signUp.fills.map(({ column, value }) => ({
        id: `${newcomer} ${column}`,
        table: signUp.roster,
        column,
        on: 'create' as const,
        value,
        to: [newcomer],
      })),
      ...(definition.stamps ?? []),
    ],
  };
}

/** The roles that somebody has who came by the link, as far as what it says of the row gives them. */
export function rolesBySignUp(definition: PortalDefinition, catalogue: Catalogue, { roster, fills }: SignUp): string[] {
  const context = { facts: {}, today: '', now: '' };
  const row: Row = Object.fromEntries(
    fills.flatMap(({ column, value }) => (isConstant(value) ? [[column, constantValue(value, context)]] : [])),
  );
  return rolesOfRows(definition, catalogue, { [roster]: row });
}

/** Why nobody can ask to come in by it any more, in words; null while they can. `used` is how many have. */
export function signUpOver({ ends, uses }: SignUp, used: number, moment: Date, timeZone: string): string | null {
  if (ends !== undefined && dayIn(moment, timeZone) > ends) return 'This link has ended. Ask whoever gave it to you.';
  return uses !== undefined && used >= uses
    ? 'As many as can have come in by this link. Ask whoever gave it to you.'
    : null;
}
