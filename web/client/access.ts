import type { MaskSample, ViewRecord, SideBySide, WriteExplanation } from '../../server/gate/gate';
import { useQuery } from '@tanstack/react-query';
import type { PromiseOutcome } from '../../core/access/promises';
import type { AskedOf, Reach, WhoSees } from '../../core/access/who';
import type { Mask } from '../../core/mask/mask';
import type { PersonId } from './builder';
import { whileSame } from './same-subject';
import { ask } from './http';

export type { AskedOf, MaskSample, PromiseOutcome, Reach, SideBySide, ViewRecord, WhoSees, WriteExplanation };

const at = (slug: string) => `/builder/portals/${slug}`;

/** A mask on real values of a column. */
export function useMaskSamples(slug: string, target: AskedOf | null, mask: Mask, revision: number) {
  const queryKey = ['builder', slug, 'mask-sample', target, mask, revision];
  return useQuery({
    queryKey,
    enabled: target !== null,
    placeholderData: whileSame(queryKey),
    retry: false,
    queryFn: () => ask<{ samples: MaskSample[] }>('POST', `${at(slug)}/mask-sample`, { ...target, mask }),
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
      ask<SideBySide>(
        'GET',
        `${at(slug)}/side-by-side/${encodeURIComponent(table)}?one=${one}&other=${other}&only=${String(only)}`,
      ),
  });
}

/** What is asked of who sees what: a column, a data class, or a person. */
export type WhoQuestion = { table: string; column: string } | { class: string } | { person: string };

export function whoAddress(slug: string, question: WhoQuestion, format: 'json' | 'csv'): string {
  return `${at(slug)}/who?${new URLSearchParams({ ...question, format }).toString()}`;
}

export function useWho(slug: string, question: WhoQuestion | null, revision: number) {
  const queryKey = ['builder', slug, 'who', question, revision];
  return useQuery({
    queryKey,
    enabled: question !== null,
    placeholderData: whileSame(queryKey),
    queryFn: () =>
      ask<{
        found?: WhoSees[];
        asked?: AskedOf[];
        name?: string;
        reached?: (AskedOf & { reach: Reach; rows: string })[];
      }>('GET', whoAddress(slug, question!, 'json')),
  });
}

/** Tests the draft's promises. */
export function usePromises(slug: string, revision: number, enabled = true) {
  const queryKey = ['builder', slug, 'promises', revision];
  return useQuery({
    queryKey,
    enabled,
    placeholderData: whileSame(queryKey),
    queryFn: () => ask<{ outcomes: PromiseOutcome[] }>('GET', `${at(slug)}/promises`),
  });
}

export interface LogLine {
  at: string;
  who: string;
  what: string;
  about: string;
}

export function useLog(slug: string) {
  return useQuery({
    queryKey: ['builder', slug, 'log'],
    queryFn: () => ask<{ entries: LogLine[] }>('GET', `${at(slug)}/log`),
  });
}
