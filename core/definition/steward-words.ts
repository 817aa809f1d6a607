import { listed } from '../text/listed';
import type { PortalDefinition } from './definition';
import type { Steward } from './steward';

type Named = Pick<PortalDefinition, 'roles' | 'stewards'>;

const roleName = ({ roles }: Named, id: string): string => roles.find((role) => role.id === id)?.name ?? id;

/** What a steward is called where a role would be: "Parish steward, looking after Well owner". */
export function stewardName(definition: Named, steward: Steward): string {
  return `${roleName(definition, steward.role)}, ${doing(definition, steward)}`;
}

function doing(definition: Named, steward: Steward): string {
  switch (steward.does) {
    case 'look after people':
      return `looking after ${listed(steward.roles.map((role) => roleName(definition, role)))}`;
    case 'keep a table':
      return 'keeping the table';
    case 'hand over':
      return 'handing over';
  }
}

/** As `stewardName`, by the id; of one that is gone its id. */
export function stewardCalled(definition: Named, id: string): string {
  const found = definition.stewards?.find((steward) => steward.id === id);
  return found ? stewardName(definition, found) : id;
}
