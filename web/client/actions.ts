import { useMutation, useQueryClient } from '@tanstack/react-query';
import type { ActionTold, AskTold } from '../../server/actions/action-told';
import type { ActOutcome, CallTold } from '../../server/actions/action-endpoints';
import type { WouldLeave } from '../../server/actions/would-leave';
import type { ActedByJob } from '../../server/actions/act-job';
import { isOver, jobProblem, ownJobs } from './files';
import { ServerProblem } from './http';
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
  | { outcomes: ActOutcome[]; undoable: boolean; wouldLeave?: WouldLeave[] }
  | (ActedByJob & { undoable: false });

/** With more records than this a press is done by a job, which says how far it is. */
const mostByItself = 200;

/** An id for one press, by which the server knows it again however often it is sent. */
export const pressId = (): string =>
  Array.from(crypto.getRandomValues(new Uint8Array(16)), (byte) => byte.toString(16).padStart(2, '0')).join('');

/** Begins a job and waits until it is over. */
async function pressedByJob(
  base: string,
  { id: action, table }: ActionTold,
  body: { ids: string[]; asked: Record<string, unknown>; press: string },
  onJob: (id: number | null) => void,
): Promise<PressOutcome> {
  const ways = ownJobs(base);
  let job = await ways.act(table, action, body);
  onJob(job.id);
  try {
    while (!isOver(job)) {
      await new Promise((resolve) => setTimeout(resolve, 400));
      // Where it can't be asked at the moment it goes on all the same.
      const { id } = job;
      job = await ways.job(id).catch((error: unknown) => {
        if (error instanceof ServerProblem && error.status < 500) throw error;
        return job;
      });
    }
  } finally {
    onJob(null);
  }
  const problem = jobProblem(job);
  if (problem) throw problem;
  if (job.state === 'cancelled') return { done: 0, refused: body.ids, reasons: [], undoable: false };
  return { ...(job.result as ActedByJob), undoable: false };
}

/** Presses; `trial` tries it and takes it back. `onJob` is told of the job that does it, and when it is over. */
export function useAct(
  base: string,
  told: ActionTold,
  trial: boolean,
  onJob: (id: number | null) => void = () => undefined,
) {
  const { id: action, table } = told;
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
      if ('ids' in on && on.ids.length > mostByItself && !trial)
        return pressedByJob(base, told, { ids: on.ids, asked, press }, onJob);
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
