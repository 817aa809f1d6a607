import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import type { OwnApi } from '../../server/api';
import { askAt } from './http';

export type OwnSignIn = OwnApi['GET /own/sign-in']['answer'];

const own = (slug: string) => askAt<OwnApi>(`/portals/${slug}`);
const key = (slug: string) => ['own-sign-in', slug];

/** How whoever is signed in proves who they are, and where they are signed in. */
export function useOwnSignIn(slug: string) {
  return useQuery({ queryKey: key(slug), queryFn: () => own(slug)('GET /own/sign-in') });
}

/** Changes something of one's own sign-in, which is then read anew. */
export function useOwnChange<Asked>(
  slug: string,
  change: (ask: ReturnType<typeof own>, asked: Asked) => Promise<unknown>,
) {
  const client = useQueryClient();
  return useMutation({
    mutationFn: (asked: Asked) => change(own(slug), asked),
    onSuccess: () => client.invalidateQueries({ queryKey: key(slug) }),
  });
}
