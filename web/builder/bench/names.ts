import { columnLabel, type PortalDefinition } from '../../../core/definition/definition';
import { readPath } from '../../../core/definition/path';
import { plainLabel } from '../../../core/table/catalogue';
import { useBench } from './bench-context';

/** What things of the draft are called on the bench: as people read them in the portal. */
export interface Names {
  table: (name: string) => string;
  column: (table: string, name: string) => string;
  /** A path of columns and relations: "well's owner's name". */
  path: (table: string, path: string) => string;
  role: (id: string) => string;
  roles: (ids: readonly string[]) => string;
}

export function namesOf(draft: PortalDefinition): Names {
  const table = (name: string) => draft.tables[name]?.label ?? plainLabel(name);
  const column = (of: string, name: string) => columnLabel(draft, of, name, plainLabel);
  const role = (id: string) => draft.roles.find((each) => each.id === id)?.name ?? id;
  return {
    table,
    column,
    path: (of, text) => {
      const parts = readPath(text) ?? [text];
      return parts.length === 1 ? column(of, parts[0]!) : parts.map(plainLabel).join(' · ');
    },
    role,
    roles: (ids) => ids.map(role).join(', '),
  };
}

export function useNames(): Names {
  return namesOf(useBench().draft);
}
