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

/** A form as it is when it is opened with a record; not asked for again while it is filled in. */
export function useOpenedForm(base: string, page: string, section: string, record: string) {
  return useQuery({
    queryKey: [base, 'opened-form', page, section, record],
    queryFn: () => records(base)('GET /pages/:page/:section/form/with/:record', { params: { page, section, record } }),
    staleTime: Infinity,
    gcTime: 0,
  });
}

interface Sending {
  values: Record<string, unknown>;
  lines: Record<string, Record<string, unknown>[]>;
  signed?: string;
  record?: string;
  seen?: Record<string, unknown>;
  press: string;
  ticket: string;
  further: string;
}

/** Sends a form; `trial` tries it and takes it back. */
export function useSendForm(base: string, page: string, section: string, trial: boolean) {
  const client = useQueryClient();
  return useMutation({
    mutationFn: (body: Sending) =>
      records(base)('POST /pages/:page/:section/form', { params: { page, section }, query: { trial }, body }),
    onSuccess: () => {
      if (!trial)
        void client.invalidateQueries({
          predicate: ({ queryKey }) =>
            queryKey[0] === base && !['form-ticket', 'opened-form', 'me'].includes(String(queryKey[1])),
        });
    },
  });
}

/** Corrects what was just sent. */
export function useCorrectForm(base: string, page: string, section: string) {
  return useMutation({
    mutationFn: (body: { receipt: string; values: Record<string, unknown>; signed?: string; record?: string }) =>
      records(base)('PATCH /pages/:page/:section/form', { params: { page, section }, body }),
  });
}
