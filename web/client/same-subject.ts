import type { QueryKey } from '@tanstack/react-query';

/**
 * What was answered before is shown while a newer answer comes, as long as it is about the same thing: all of the key
 * but its last part, the draft's revision. Numbers of one table, person or role never stand under the name of another.
 */
export function whileSame<T>(
  key: QueryKey,
): (before: T | undefined, query: { queryKey: QueryKey } | undefined) => T | undefined {
  const subject = JSON.stringify(key.slice(0, -1));
  return (before, query) => (query && JSON.stringify(query.queryKey.slice(0, -1)) === subject ? before : undefined);
}
