import { randomBytes } from 'node:crypto';
import Joi from 'joi';
import { Problem } from '../../core/refusals/problem';
import { openDraft, type BenchServices } from '../bench/bench';
import { fetchFile } from '../brought/fetch-file';
import { NotFound } from '../gate/gate';
import { form, listOf, moment, said, saidOrNull, whole } from '../http/answers';
import { endpoint } from '../http/endpoint';
import { jobState } from '../jobs/job-answers';
import type { Jobs } from '../jobs/jobs';
import { CallFailed } from '../outside/call-out';
import { builders } from '../sessions/as-builder';
import { TimedRun } from '../store/timed-models';

/** What was done at a time of one day. */
export interface TimedRunTold {
  day: string;
  state: TimedRun['state'];
  done: number;
  refused: number;
  problem: string | null;
  begunAt: string;
  /** Of what was brought: how many were added and changed, and the file of those that were refused. */
  brought: { added: number; changed: number; same: number; refusedFile: string | null } | null;
}

const mostTold = 10;
const runStates = ['running', 'done', 'held', 'failed', 'unsure'] as const;

/** What is done each day at a time, and fetching what is brought at once, to be looked at. */
export function timedEndpoints(services: BenchServices & { jobs: Jobs }) {
  const draft = openDraft(services);
  return {
    timedRuns: endpoint({
      method: 'GET',
      path: '/timed-runs/:kind/:subject',
      says: 'What an action of a time did, or what was brought from an address, on the last days.',
      entry: draft,
      params: { kind: Joi.valid('action', 'brought').required(), subject: Joi.string().max(40).required() },
      answers: {
        200: form<{ runs: TimedRunTold[] }>({
          runs: listOf(
            form<TimedRunTold>({
              day: said,
              state: Joi.valid(...runStates),
              done: whole,
              refused: whole,
              problem: saidOrNull,
              begunAt: moment,
              brought: form<NonNullable<TimedRunTold['brought']>>({
                added: whole,
                changed: whole,
                same: whole,
                refusedFile: saidOrNull,
              }).allow(null),
            }),
          ),
        }),
      },
      does: async ({ draft: { portal, withoutSight }, params: { kind, subject } }) => {
        const where = { portalId: portal.id, kind: kind as TimedRun['kind'], subject };
        const runs = await TimedRun.findAll({ where, order: [['day', 'DESC']], limit: mostTold });
        // What was refused may hold what this builder is kept from.
        return { runs: runs.map((run) => tell(run, withoutSight !== true)) };
      },
    }),
    fetchBrought: endpoint({
      method: 'POST',
      path: '/brought/:brought/fetch',
      says: 'Fetches at once what the draft brings from an address, and begins a job that reads it through.',
      entry: draft,
      answers: { 202: jobState },
      does: async ({ draft: { portal, definition }, params: { brought: id }, builder }) => {
        const brought = definition.brought?.find((each) => each.id === id);
        const from = definition.addresses?.find((each) => each.id === brought?.address);
        if (!from) throw new NotFound('address');
        try {
          const file = await fetchFile(services, portal.id, from, `fetch_${randomBytes(16).toString('hex')}`);
          return await services.jobs.start('read a file', portal.id, builders(builder), { file: file.id });
        } catch (error) {
          if (!(error instanceof CallFailed)) throw error;
          throw new Problem(502, 'not-fetched', `${from.name}: ${error.message}`);
        }
      },
    }),
  };
}

function tell({ day, state, done, refused, problem, begunAt, result }: TimedRun, isOpen: boolean): TimedRunTold {
  const came = result === null ? null : (JSON.parse(result) as NonNullable<TimedRunTold['brought']>);
  return {
    day,
    state,
    done,
    refused,
    problem,
    begunAt: begunAt.toISOString(),
    brought: came && {
      added: came.added,
      changed: came.changed,
      same: came.same,
      refusedFile: isOpen ? came.refusedFile : null,
    },
  };
}
