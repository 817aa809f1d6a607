import { createHash, createHmac } from 'node:crypto';
import type { Request, Response } from 'express';
import { Problem } from '../../core/refusals/problem';
import { NotFound, read, type OpenRecord } from '../gate/gate';
import { once, pressId } from '../presses/presses';
import type { PortalVisit } from '../visits/member-visit';

/** Requests with conditions (RFC 9110, 13), and those that are counted once by a key of the sender's. */

const text = (value: unknown): string =>
  JSON.stringify(value, (_, each: unknown) => (typeof each === 'bigint' ? String(each) : each));

/** Tells whether a record is as it was seen: of what this person is shown of it, and nothing else. */
const tagOf = ({ values, masked }: Pick<OpenRecord, 'values' | 'masked'>): string =>
  `"${createHash('sha256')
    .update(text([values, masked]))
    .digest('base64url')
    .slice(0, 27)}"`;

const named = (header: string | undefined): string[] => (header ?? '').split(',').map((each) => each.trim());

/** Sets the record's tag; true where whoever asks has it as it is. */
export function isUnchanged(req: Request, res: Response, record: OpenRecord): boolean {
  const tag = tagOf(record);
  res.set('ETag', tag);
  return named(req.get('if-none-match')).some((each) => each.replace(/^W\//, '') === tag);
}

/**
 * Throws a Problem 412 where the record is not as the sender saw it. What is changed is held against what was seen once
 * more when it is written.
 */
export async function refuseChanged(req: Request, visit: PortalVisit, table: string, id: string): Promise<void> {
  const asked = req.get('if-match');
  if (asked === undefined || asked.trim() === '*') return;
  const tag = tagOf(await read(visit.source, visit, table, id));
  if (!named(asked).includes(tag))
    throw new Problem(412, 'changed-since', 'The record is not as you saw it any more. Read it again.');
}

const mostOfLinks = 3000;

/** A page's neighbours as links (RFC 8288), where there is room; they stand in the page as well. */
export function linkPages(req: Request, res: Response, page: { next: string | null; previous: string | null }): void {
  const [path, query] = req.originalUrl.split('?');
  const at = (cursor: 'after' | 'before', value: string) => {
    const asked = new URLSearchParams(query);
    asked.delete('after');
    asked.delete('before');
    asked.set(cursor, value);
    return `${path}?${asked.toString()}`;
  };
  const links = {
    ...(page.next === null ? {} : { next: at('after', page.next) }),
    ...(page.previous === null ? {} : { prev: at('before', page.previous) }),
  };
  // A header has less room than a page: programs and proxies give up on long ones.
  const length = Object.values(links).join('').length;
  if (length > 0 && length <= mostOfLinks) res.links(links);
}

interface Made {
  id: string | null;
  record: OpenRecord | null;
}

/**
 * Makes a record once, however often the same `Idempotency-Key` comes within a day; a Problem 422 where it comes with
 * other values.
 */
export async function madeOnce(
  req: Request,
  visit: PortalVisit,
  table: string,
  values: object,
  work: () => Promise<Made>,
): Promise<Made> {
  const { error, value: key } = pressId.validate(req.get('idempotency-key'));
  if (error) throw new Problem(400, 'bad-key', 'An Idempotency-Key has 16 to 64 signs.');
  if (key === undefined) return work();
  // Under the sender's own key: nobody who reads our tables tells from it what was sent.
  const of = createHmac('sha256', key).update(text(values)).digest('base64url');
  let now: Made | undefined;
  const kept = await once(visit, ['create', table], key, async () => {
    now = await work();
    return { of, id: now.id };
  });
  if (kept.of !== of)
    throw new Problem(422, 'key-of-another', 'This Idempotency-Key was sent with other values before. Take another.');
  if (now) return now;
  const record = kept.id === null ? null : await read(visit.source, visit, table, kept.id).catch(nullIfGone);
  return { id: kept.id, record };
}

function nullIfGone(error: unknown): null {
  if (error instanceof NotFound) return null;
  throw error;
}
