import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { records } from './portal';

/** When a public form was opened, said by the server; members need none. */
export function useFormTicket(base: string, page: string, section: string, isNeeded: boolean) {
  return useQuery({
    queryKey: [base, 'form-ticket', page, section],
    queryFn: () => records(base)('GET /pages/:page/:section/form', { params: { page, section } }),
    enabled: isNeeded,
    staleTime: Infinity,
    // What is asked for again after a sending is not when the form was opened.
    refetchOnMount: false,
  });
}

/** Sends a form; `trial` tries it and takes it back. */
export function useSendForm(base: string, page: string, section: string, trial: boolean) {
  const client = useQueryClient();
  return useMutation({
    mutationFn: (body: { values: Record<string, unknown>; press: string; ticket: string; further: string }) =>
      records(base)('POST /pages/:page/:section/form', { params: { page, section }, query: { trial }, body }),
    onSuccess: () => {
      if (!trial)
        void client.invalidateQueries({
          predicate: ({ queryKey }) => queryKey[0] === base && queryKey[1] !== 'form-ticket' && queryKey[1] !== 'me',
        });
    },
  });
}

/** Corrects what was just sent. */
export function useCorrectForm(base: string, page: string, section: string) {
  return useMutation({
    mutationFn: (body: { receipt: string; values: Record<string, unknown> }) =>
      records(base)('PATCH /pages/:page/:section/form', { params: { page, section }, body }),
  });
}
