import { makesOf } from '../definition/action';
import type { PortalDefinition } from '../definition/definition';
import { findTable, type Catalogue } from '../table/catalogue';
import type { ActionLens } from './action-rights';
import { lensOf } from './lens';

/** A way in which a role makes records of a table by pressing an action, whichever table that is an action of. */
export interface MadeByAction {
  action: string;
  name: string;
  role: string;
  make: ActionLens['makes'][number];
}

/** How these roles make records of a table by actions. */
export function madeByActions(
  definition: PortalDefinition,
  catalogue: Catalogue,
  made: string,
  roles: readonly string[],
): MadeByAction[] {
  return (definition.actions ?? []).flatMap((action) => {
    const table = makesOf(action).some((step) => step.table === made) ? findTable(catalogue, action.table) : undefined;
    if (!table) return [];
    return roles
      .filter((role) => action.roles.includes(role))
      .flatMap((role) =>
        (lensOf(definition, catalogue, table, role)?.actions ?? [])
          .filter((own) => own.action === action)
          .flatMap(({ makes }) => makes.filter(({ step }) => step.table === made))
          .map((make) => ({ action: action.id, name: action.name, role, make })),
      );
  });
}
