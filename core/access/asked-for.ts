import type { PortalDefinition } from '../definition/definition';
import type { Person } from './person';

/** Whether an action that is a person's right asks them for a value of a column. */
export function isAskedFor(
  { definition, person }: { definition: PortalDefinition; person: Person },
  table: string,
  column: string,
): boolean {
  return (definition.actions ?? []).some(
    ({ roles, asks }) =>
      roles.some((role) => person.roles.includes(role)) &&
      asks.some((ask) => ask.table === table && ask.column === column),
  );
}
