import Joi from 'joi';
import { Problem } from '../../core/refusals/problem';
import { atPortal, type BenchServices } from '../bench/bench';
import { form, listOf, moment, said, whole, wholeOrNull } from '../http/answers';
import { endpoint } from '../http/endpoint';
import { jobState } from '../jobs/job-answers';
import type { Jobs } from '../jobs/jobs';
import { builders } from '../sessions/as-builder';
import { ProofRun } from '../store/proof-model';
import { proofOrder, type ProofTold } from './proof-run';

/** A proof run as it is listed: of what, by whom, and what differed. */
export interface ProofLine {
  id: number;
  version: number | null;
  revision: number;
  madeBy: string;
  madeAt: string;
  /** What came of it, without names. */
  told: Omit<ProofTold, 'names'>;
}

const line = form<ProofLine>({
  id: whole,
  version: wholeOrNull,
  revision: whole,
  madeBy: said,
  madeAt: moment,
  told: Joi.object({ differed: whole.required(), cells: whole.required() }).unknown(),
});

/** Proof runs: begun, and kept with the version that they are about. */
export function proofEndpoints(services: BenchServices, jobs: Jobs) {
  const entry = atPortal(services);
  return {
    proofRun: endpoint({
      method: 'POST',
      reads: true,
      path: '/proof-runs',
      says: 'Begins a job that asks thousands of random questions as everybody, and holds each answer against core.',
      entry,
      body: proofOrder,
      answers: { 202: jobState },
      does: async ({ portal, builder, body }) => {
        // What is taken back is locked until then.
        if (body.writes && builder.right === 'reader')
          throw new Problem(403, 'reader', 'You look here, and change nothing: writes are not tried by you.');
        // Everybody's jobs are done by the same thread, one after another.
        if ((await jobs.running(portal.id)).some(({ kind }) => kind === 'proof run'))
          throw new Problem(
            409,
            'running',
            'A proof run is under way here already. Wait until it is over, or stop it.',
          );
        return jobs.start('proof run', portal.id, builders(builder), body);
      },
    }),
    proofRuns: endpoint({
      method: 'GET',
      path: '/proof-runs',
      says: 'The proof runs that are kept, the newest first.',
      entry,
      answers: { 200: form<{ runs: ProofLine[] }>({ runs: listOf(line) }) },
      does: async ({ portal }) => {
        const runs = await ProofRun.findAll({ where: { portalId: portal.id }, order: [['id', 'DESC']] });
        return {
          runs: runs.map(({ id, version, revision, madeBy, madeAt, result }) => ({
            id: Number(id),
            version,
            revision,
            madeBy,
            madeAt: madeAt.toISOString(),
            told: JSON.parse(result) as ProofLine['told'],
          })),
        };
      },
    }),
  };
}
