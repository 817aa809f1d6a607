import { useEffect } from 'react';
import { useQueryClient, type QueryKey } from '@tanstack/react-query';
import { usePlace } from '../place/place';

/** Asks for a section's records and numbers again every so often, while somebody looks at it. */
export function Refreshed({ page, section, seconds }: { page: string; section: string; seconds: number }) {
  const { base } = usePlace();
  const client = useQueryClient();
  useEffect(() => {
    const timer = setInterval(() => {
      if (!document.hidden)
        void client.invalidateQueries({ predicate: ({ queryKey }) => isOf(queryKey, [base, page, section]) });
    }, seconds * 1000);
    return () => clearInterval(timer);
  }, [client, base, page, section, seconds]);
  return null;
}

/** Lists are known by where they stand, their numbers as well. */
const isOf = (key: QueryKey, parts: string[]) => key[1] === 'list' && parts.every((part) => key.includes(part));
