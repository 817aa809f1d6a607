import type { PortalDefinition } from '../definition/definition';
import type { SignUp } from '../definition/sign-up';
import { askedOf, rolesBySignUp } from '../people/sign-ups';
import { neededColumns } from '../access/view';
import { findColumn, findTable, type Catalogue } from '../table/catalogue';
import type { Finding, Place } from './finding';

/** Links by which nobody can come in as is meant, and links that are open to everybody. */
export function findSignUpFaults(definition: PortalDefinition, catalogue: Catalogue): Finding[] {
  return (definition.signUps ?? []).flatMap((signUp): Finding[] => {
    const place: Place = { stage: 'people', screen: '~sign-up' };
    const problem = signUpProblem(definition, catalogue, signUp);
    if (problem !== null)
      return [
        {
          id: `sign-up/${signUp.id}`,
          kind: 'sign-up does not work',
          severity: 'broken',
          place,
          title: `${signUp.name}: ${problem}`,
          why: 'Nobody comes in by its link as it is meant. Set it right under People, Sign-up, or remove it.',
        },
      ];
    const { domains, uses, ends, approver } = signUp;
    return [domains, uses, ends, approver].every((limit) => limit === undefined)
      ? [
          {
            id: `open-sign-up/${signUp.id}`,
            kind: 'sign-up for everybody',
            severity: 'leak',
            place,
            title: `${signUp.name}: whoever gets hold of the link comes in, for ever`,
            why:
              'Name an approver, domains, a last day or a highest number of people. Accept it where everybody is ' +
              'meant to come in.',
          },
        ]
      : [];
  });
}

function signUpProblem(definition: PortalDefinition, catalogue: Catalogue, signUp: SignUp): string | null {
  const { roster: name, asks, fills, approver } = signUp;
  const roster = definition.rosters.find(({ table }) => table === name);
  const table = findTable(catalogue, name);
  if (!roster || !table) return `there is no roster ${name}`;
  if (approver !== undefined && !definition.roles.some(({ id }) => id === approver))
    return `there is no role ${approver}`;
  const lost = fills.find(({ column }) => !findColumn(table, column));
  if (lost) return `${name} has no ${lost.column}`;
  const asked = askedOf(definition, catalogue, signUp);
  const never = asks.find((column) => !asked.includes(column));
  if (never !== undefined) return `${never} is asked of nobody, because it decides who somebody is or is not there`;
  const stamped = (definition.stamps ?? []).filter(
    ({ table: of, to, on }) => of === name && to === 'everyone' && on !== 'change',
  );
  const filled = [roster.email, ...asked, ...fills.map(({ column }) => column), ...stamped.map(({ column }) => column)];
  const missing = neededColumns(table).find((column) => !filled.includes(column));
  if (missing !== undefined) return `nobody fills ${missing}, which ${name} needs`;
  return rolesBySignUp(definition, catalogue, signUp).length > 0 ? null : 'it gives nobody a role';
}
