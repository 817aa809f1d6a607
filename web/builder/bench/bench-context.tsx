import { createContext, useContext } from 'react';
import type { PortalDefinition } from '../../../core/definition/definition';
import type { Catalogue } from '../../../core/table/catalogue';
import type { EditDraft } from '../../client/draft-edits';
import type { PersonId } from '../../client/builder';
import type { PortalState } from '../../client/draft';

export const stages = ['data', 'people', 'access', 'pages', 'check', 'publish'] as const;

export type Stage = (typeof stages)[number];

/** What every part of the bench works with. */
export interface BenchState {
  slug: string;
  state: PortalState;
  draft: PortalDefinition;
  catalogue: Catalogue;
  /** Edits the draft and shows the fault if it is refused. */
  edit: EditDraft;
  /** The object of the stage that the address names. */
  object: string | null;
  /** Address of a stage and object of this portal. */
  to(stage: Stage, object?: string | null, query?: Record<string, string>): string;
  /** Whom Seen by shows; null when nobody is chosen. */
  person: BenchPerson | null;
  setPerson(person: BenchPerson): void;
  /** The version that Seen by shows; the draft when null. */
  version: number | null;
  /** Shows a version in Seen by, or the draft again. */
  lookAt(version: number | null): void;
}

export interface BenchPerson {
  id: PersonId;
  name: string;
}

const BenchContext = createContext<BenchState | null>(null);
export const BenchProvider = BenchContext.Provider;

/** Whom Seen by shows, as they are asked for: before the version that is looked at, where it is not the draft. */
export function useSeenPerson(): BenchPerson | null {
  const { person, version } = useBench();
  return person && version !== null ? { ...person, id: `${person.id}@${version}` } : person;
}

export function useBench(): BenchState {
  const bench = useContext(BenchContext);
  if (!bench) throw new Error('useBench outside the bench');
  return bench;
}
