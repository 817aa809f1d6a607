import { createHmac } from 'node:crypto';

/** What is kept of a code: under a key outside of the database, and of use for one call alone. */
export const hashOfCode = (key: Buffer, call: number, code: string): string =>
  createHmac('sha256', key).update(`${call}:${code}`).digest('hex');
