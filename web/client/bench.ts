import type { AllRecordsApi, BenchApi, WhyApi, WorkplaceApi } from '../../server/api';
import { addressAt, askAt } from './http';

export type { BenchApi };

/** What a builder asks without a portal. */
export const workplace = askAt<WorkplaceApi>('/builder');

const at = (slug: string) => `/builder/portals/${encodeURIComponent(slug)}`;

/** What a builder asks of a portal. */
export const bench = (slug: string) => askAt<BenchApi>(at(slug));

/** The same, as addresses. */
export const benchAddress = (slug: string) => addressAt<BenchApi>(at(slug));

/** The API's address of all records, under the builder's own grant. */
export function allRecords(slug: string): string {
  return `${at(slug)}/all`;
}

export const ofAllRecords = (slug: string) => askAt<AllRecordsApi>(allRecords(slug));

/** A member by number, `visitor`, or `service.` and a role. */
export type PersonId = number | string;

/** The API's address of the draft as somebody gets it. */
export function seenByBase(slug: string, member: PersonId): string {
  return `${at(slug)}/as/${member}`;
}

/** Whether an answer that is kept is of the draft as somebody gets it. */
export function isSeenBy(slug: string, base: unknown): boolean {
  return typeof base === 'string' && base.startsWith(`${at(slug)}/as/`);
}

export const whyAt = (slug: string, member: PersonId) => askAt<WhyApi>(seenByBase(slug, member));
