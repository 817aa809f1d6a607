import type { ViewRecord, SideBySide, WriteExplanation } from '../../server/gate/gate';
import { useQuery } from '@tanstack/react-query';
import type { PromiseOutcome } from '../../core/access/promises';
import type { SideEffect as WhoEffect } from '../../core/access/side-effects';
import type { AskedOf, Reach } from '../../core/access/who';
import type { DataClass } from '../../core/definition/definition';
import type { Mask } from '../../core/mask/mask';
import { bench, benchAddress, type PersonId } from './bench';
import { whileSame } from './same-subject';

export type { AskedOf, PromiseOutcome, Reach, SideBySide, ViewRecord, WhoEffect, WriteExplanation };

/** A mask on real values of a column. */
export function useMaskSamples(slug: string, target: AskedOf | null, mask: Mask, revision: number) {
  const queryKey = ['builder', slug, 'mask-sample', target, mask, revision];
  return useQuery({
    queryKey,
    enabled: target !== null,
    placeholderData: whileSame(queryKey),
    retry: false,
    queryFn: () => bench(slug)('POST /mask-sample', { body: { ...target!, mask } }),
  });
}

/** One table as two persons get it. */
export function useSideBySide(
  slug: string,
  table: string,
  one: PersonId,
  other: PersonId | null,
  only: boolean,
  revision: number,
) {
  const queryKey = ['builder', slug, 'side-by-side', table, one, other, only, revision];
  return useQuery({
    queryKey,
    enabled: other !== null,
    placeholderData: whileSame(queryKey),
    queryFn: () =>
      bench(slug)('GET /side-by-side/:table', {
        params: { table },
        query: { one: String(one), other: String(other), only },
      }),
  });
}

/** What is asked of who sees what: a column, a data class, or a person. */
export type WhoQuestion = { table: string; column: string } | { class: DataClass } | { person: string };

/** Who sees what, as a file. */
export function whoFile(slug: string, question: WhoQuestion): string {
  return benchAddress(slug)('GET /who.csv', { query: question });
}

export function useWho(slug: string, question: WhoQuestion | null, revision: number) {
  const queryKey = ['builder', slug, 'who', question, revision];
  return useQuery({
    queryKey,
    enabled: question !== null,
    placeholderData: whileSame(queryKey),
    queryFn: () => bench(slug)('GET /who', { query: question! }),
  });
}

/** Tests the draft's promises. */
export function usePromises(slug: string, revision: number, enabled = true) {
  const queryKey = ['builder', slug, 'promises', revision];
  return useQuery({
    queryKey,
    enabled,
    placeholderData: whileSame(queryKey),
    queryFn: () => bench(slug)('GET /promises'),
  });
}
