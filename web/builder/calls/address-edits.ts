import { callsOf } from '../../../core/definition/action';
import type { PortalDefinition } from '../../../core/definition/definition';
import { freeId } from '../../../core/definition/free-id';

/** Adds an address to the draft; gives its id. */
export function addAddress(draft: PortalDefinition, name: string, url: string): string {
  const known = draft.addresses ?? [];
  const id = freeId(name, known);
  draft.addresses = [...known, { id, name, url }];
  return id;
}

/** The actions that call an address, by their names. */
export const callersOf = (draft: PortalDefinition, address: string): string[] =>
  (draft.actions ?? [])
    .filter((action) => callsOf(action).some((step) => step.address === address))
    .map(({ name }) => name);
