import { useMutation, useQueryClient } from '@tanstack/react-query';
import type { ActionTold, AskTold } from '../../server/actions/action-told';
import type { ActOutcome, CallTold } from '../../server/actions/action-endpoints';
import type { WouldLeave } from '../../server/actions/would-leave';
import { records, useMe, type OpenRecord, type ViewRecord } from './portal';

export type { ActionTold, ActOutcome, AskTold, WouldLeave };

/** What this person may do by a press with records of a table. */
export function useActions(base: string, table: string): ActionTold[] {
  return useMe(base).data?.actions.filter((action) => action.table === table) ?? [];
}

/** One of them by its id. */
export const useAction = (base: string, id: string): ActionTold | undefined =>
  useMe(base).data?.actions.find((action) => action.id === id);

/** What an action is done with: one record as it is seen, or several by their ids. */
export type ActedOn = { record: ViewRecord & { id: string } } | { ids: string[] };

/** What came of a press. `gone` where the record has left this person's view. */
export type PressOutcome =
  | {
      record: OpenRecord | null;
      made: { table: string; id: string | null }[];
      calls: CallTold[];
      undoable: boolean;
      wouldLeave?: WouldLeave[];
    }
  | { outcomes: ActOutcome[]; undoable: boolean; wouldLeave?: WouldLeave[] };

/** An id for one press, by which the server knows it again however often it is sent. */
export const pressId = (): string =>
  Array.from(crypto.getRandomValues(new Uint8Array(16)), (byte) => byte.toString(16).padStart(2, '0')).join('');

/** Presses; `trial` tries it and takes it back. */
export function useAct(base: string, { id: action, table }: ActionTold, trial: boolean) {
  const client = useQueryClient();
  return useMutation({
    mutationFn: async ({
      on,
      asked,
      press,
    }: {
      on: ActedOn;
      asked: Record<string, unknown>;
      press: string;
    }): Promise<PressOutcome> => {
      const query = { trial };
      if ('ids' in on)
        return records(base)('POST /records/:table/actions/:action', {
          params: { table, action },
          query,
          body: { ids: on.ids, asked, press },
        });
      const { id, values, masked } = on.record;
      const seen = Object.fromEntries(Object.entries(values).filter(([path]) => !masked.includes(path)));
      return records(base)('POST /records/:table/:id/actions/:action', {
        params: { table, id, action },
        query,
        body: { asked, seen, press },
      });
    },
    onSettled: () => (trial ? undefined : client.invalidateQueries({ queryKey: [base] })),
  });
}

/** Takes a press back, as long as nobody changed what it wrote. */
export function useUndoAct(base: string, { id: action, table }: ActionTold) {
  const client = useQueryClient();
  return useMutation({
    mutationFn: ({ on, press }: { on: ActedOn; press: string }) =>
      records(base)('POST /records/:table/actions/:action/undo', {
        params: { table, action },
        body: { press, id: 'ids' in on ? null : on.record.id },
      }),
    onSettled: () => client.invalidateQueries({ queryKey: [base] }),
  });
}
