import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import type { OwnApi } from '../../server/api';
import { askAt } from './http';

export type OwnSignIn = OwnApi['GET /own/sign-in']['answer'];

const own = (base: string) => askAt<OwnApi>(base);
const key = (base: string) => ['own-sign-in', base];

/** How whoever is signed in proves who they are, and where they are signed in. */
export function useOwnSignIn(base: string) {
  return useQuery({ queryKey: key(base), queryFn: () => own(base)('GET /own/sign-in') });
}

/** Changes something of one's own sign-in, which is then read anew. */
export function useOwnChange<Asked>(
  base: string,
  change: (ask: ReturnType<typeof own>, asked: Asked) => Promise<unknown>,
) {
  const client = useQueryClient();
  return useMutation({
    mutationFn: (asked: Asked) => change(own(base), asked),
    onSuccess: () => client.invalidateQueries({ queryKey: key(base) }),
  });
}
