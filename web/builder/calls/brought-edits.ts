import type { Brought } from '../../../core/definition/brought';
import type { PortalDefinition } from '../../../core/definition/definition';
import { freeId } from '../../../core/definition/free-id';
import { isClosed, type Table } from '../../../core/table/catalogue';

/** Brings a table from an address each night, as a service that may add and change; gives its id. */
export function addBrought(draft: PortalDefinition, table: Table, called: string): string {
  const known = draft.brought ?? [];
  const name = `${called} from outside`;
  // Both kinds stand on one screen, and go by their ids there.
  const id = freeId(name, [...known, ...(draft.addresses ?? [])]);
  const made: Brought = {
    id,
    name,
    address: draft.addresses?.[0]?.id ?? '',
    table: table.name,
    at: '02:30',
    role: bringingRole(draft, table),
    refused: 'hold',
  };
  draft.brought = [...known, made];
  return id;
}

/** A service that sees the table, and adds to it and changes it; a new one where there is none. */
export function bringingRole(draft: PortalDefinition, table: Table, another = false): string {
  const grants = draft.access[table.name] ?? {};
  const known = draft.roles.find(
    (role) => role.for === 'services' && (grants[role.id]?.edit || grants[role.id]?.create),
  );
  if (known && !another) return known.id;
  const id = freeId('brings', draft.roles);
  draft.roles.push({ id, name: 'Brings', for: 'services' });
  const columns = table.columns.filter(({ name, type }) => type !== 'other' && !isClosed(table, name));
  const filled = columns.filter(({ automatic, name }) => !automatic && !table.key.includes(name));
  (draft.access[table.name] ??= {})[id] = {
    see: { where: 'every row', columns: columns.map(({ name }) => name) },
    create: { columns: columns.filter(({ automatic }) => !automatic).map(({ name }) => name) },
    edit: { where: 'as seen', columns: filled.map(({ name }) => name) },
  };
  return id;
}
