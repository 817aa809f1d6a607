import { plainNaming, type Naming } from '../../../core/condition/describe';
import { columnLabel, columnNotes, type PortalDefinition } from '../../../core/definition/definition';
import { stewardCalled } from '../../../core/definition/steward-words';
import { readPath } from '../../../core/definition/path';
import {
  findTable,
  isPathProblem,
  plainLabel,
  resolveMany,
  resolvePath,
  type Catalogue,
} from '../../../core/table/catalogue';
import { labelOf } from '../../records/options';
import { useBench } from './bench-context';

/** What things of the draft are called on the bench: as people read them in the portal. */
export interface Names {
  table: (name: string) => string;
  /** A table within a sentence. */
  tableInText: (name: string) => string;
  column: (table: string, name: string) => string;
  /** A path of columns and relations: "well's owner's name". */
  path: (table: string, path: string) => string;
  role: (id: string) => string;
  roles: (ids: readonly string[]) => string;
  /** What a steward is called, by the id. */
  steward: (id: string) => string;
  /** What an action is called, by the id. */
  action: (id: string) => string;
}

export function namesOf(draft: PortalDefinition): Names {
  const table = (name: string) => draft.tables[name]?.label ?? plainLabel(name);
  const column = (of: string, name: string) => columnLabel(draft, of, name, plainLabel);
  const role = (id: string) => draft.roles.find((each) => each.id === id)?.name ?? id;
  return {
    table,
    tableInText: (name) => draft.tables[name]?.label ?? small(name),
    column,
    path: (of, text) => {
      const parts = readPath(text) ?? [text];
      return parts.length === 1 ? column(of, parts[0]!) : parts.map(plainLabel).join(' · ');
    },
    role,
    roles: (ids) => ids.map(role).join(', '),
    steward: (id) => stewardCalled(draft, id),
    action: (id) => draft.actions?.find((each) => each.id === id)?.name ?? id,
  };
}

/**
 * How the conditions of a table are said on the bench: columns and values by their labels, where they have some, and by
 * their plain names in small letters where not.
 */
export function namingOf(draft: PortalDefinition, catalogue: Catalogue, tableName: string): Naming {
  const table = findTable(catalogue, tableName);
  const endOf = (path: string[]) => {
    const found = table ? resolvePath(catalogue, table, path) : null;
    return found && !isPathProblem(found) ? found : null;
  };
  return {
    path: (path) => {
      const found = endOf(path);
      const label = found && draft.tables[found.table.name]?.columns?.[found.column.name]?.label;
      return label ? [...path.slice(0, -1).map(small), label].join("'s ") : plainNaming.path(path);
    },
    value: (path, text) => {
      const found = endOf(path);
      const labels = found ? columnNotes(draft, found.table.name, found.column.name).labels : undefined;
      return labelOf(labels, text);
    },
    table: (name) => draft.tables[name]?.label ?? name,
    inside: (relation) => {
      const found = table ? resolveMany(catalogue, table, relation) : null;
      return found && !isPathProblem(found) ? namingOf(draft, catalogue, found.table.name) : plainNaming;
    },
  };
}

const small = (name: string) => plainLabel(name).toLowerCase();

/** As `namingOf`, of the bench's own draft. */
export function useNaming(): (table: string) => Naming {
  const { draft, catalogue } = useBench();
  return (table) => namingOf(draft, catalogue, table);
}

export function useNames(): Names {
  return namesOf(useBench().draft);
}
