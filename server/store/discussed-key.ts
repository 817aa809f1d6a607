import { createHash } from 'node:crypto';

/** A record's key by which it is found again: of the columns as well, since other columns may hold the same text. */
export const keyHash = ({ columns, id }: { columns: string[]; id: string }): string =>
  createHash('sha256')
    .update(JSON.stringify([columns, id]))
    .digest('base64url');

/** Columns of a key, as they are kept. */
export const readColumns = (text: string): string[] => JSON.parse(text) as string[];
