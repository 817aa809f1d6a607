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
}

export interface BenchPerson {
  id: PersonId;
  name: string;
}

const BenchContext = createContext<BenchState | null>(null);
export const BenchProvider = BenchContext.Provider;

export function useBench(): BenchState {
  const bench = useContext(BenchContext);
  if (!bench) throw new Error('useBench outside the bench');
  return bench;
}
