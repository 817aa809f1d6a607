import { randomBytes } from 'node:crypto';
import { parentPort, workerData } from 'node:worker_threads';
import { jobKinds } from './job-kinds';
import { openServices } from './open-services';
import type { WorkerOptions } from './jobs/jobs';
import { nextJob, runJob } from './jobs/run-job';

/**
 * The thread that does jobs, one after the other, until there are none; it looks again when told, and now and then for
 * those of servers that are gone.
 */
const options = workerData as WorkerOptions;

const services = await openServices({
  ...options,
  secretKey: Buffer.from(options.secretKey),
  connections: 3,
  statementSeconds: 600,
});

const me = randomBytes(8).toString('hex');
const often = 10_000;

let looking = false;
let again = false;

async function look(): Promise<void> {
  again = true;
  if (looking) return;
  looking = true;
  try {
    while (again) {
      again = false;
      for (let job = await nextJob(me); job; job = await nextJob(me)) await runJob(jobKinds, services, job, me);
    }
  } catch {
    // The database is away: looked for again at the next turn.
  } finally {
    looking = false;
  }
}

parentPort!.on('message', () => void look());

setInterval(() => void look(), often);

await look();
