import { Worker } from 'node:worker_threads';
import { Op } from 'sequelize';
import { Problem } from '../../core/refusals/problem';
import type { DatabaseAddress } from '../sources/connect-sequelize';
import { Job } from '../store/models';

const unfinished: Job['state'][] = ['waiting', 'running', 'saving'];

/** What a worker needs to open the same services as the server. */
export interface WorkerOptions {
  database: DatabaseAddress;
  ownSchema: string;
  secretKey: Buffer;
  privateAddresses?: boolean;
}

/** A job as pages see it. `result` is what came of it, or the problem (RFC 9457) when it failed. */
export interface JobState {
  id: number;
  kind: string;
  state: Job['state'];
  done: number;
  total: number | null;
  result: unknown;
}

/** Whose a job is, by their number. */
export interface JobOwner {
  kind: 'builder' | 'member';
  id: number;
}

/** Of what is done by itself. */
export interface NobodysJob {
  kind: 'service';
  id: null;
}

/** So many jobs of one member wait or run at a time: everybody's are done by the same threads. */
const mostOfMember = 3;

/** So many a member begins in a day: what they make is kept as long. */
const mostInADay = 40;

/**
 * Long work, kept in the database so that any server can go on with it, and done in a thread of its own beside the
 * server. The thread is started when there is something to do.
 */
export class Jobs {
  private worker: Worker | null = null;
  private closing = false;

  /** `thread` is the module that does them: it opens the services and knows the kinds. */
  constructor(
    private readonly thread: URL,
    private readonly options: WorkerOptions,
  ) {}

  /** Begins a job; a Problem 429 where a member has begun too many that aren't over. */
  async start(kind: string, portalId: number, owner: JobOwner | NobodysJob, input: unknown): Promise<JobState> {
    if (owner.kind === 'member') await refuseTooMany(portalId, owner);
    const job = await Job.create({
      kind,
      portalId,
      ownerKind: owner.kind,
      ownerId: owner.id,
      state: 'waiting',
      input: JSON.stringify(input),
      result: null,
      done: 0,
      total: null,
      cancelWanted: false,
      worker: null,
      beatAt: null,
      madeAt: new Date(),
    });
    this.wake();
    return stateOf(job);
  }

  /** A job of a portal: anybody's, or an owner's own. */
  async find(portalId: number, id: number, owner?: JobOwner): Promise<JobState | null> {
    const job = await Job.findOne({ where: { id, portalId, ...ownedBy(owner) } });
    return job && stateOf(job);
  }

  /** The jobs of a portal that wait or run, the newest first: everybody's, or an owner's own. */
  async running(portalId: number, owner?: JobOwner): Promise<JobState[]> {
    const jobs = await Job.findAll({
      where: { portalId, state: unfinished, ...ownedBy(owner) },
      order: [['id', 'DESC']],
      limit: 20,
    });
    return jobs.map(stateOf);
  }

  /** The worker stops at its next step: true says that it will. What is being saved already is not stopped. */
  async cancel(portalId: number, id: number, owner?: JobOwner): Promise<boolean> {
    const mine = { id, portalId, ...ownedBy(owner) };
    const [waited] = await Job.update({ state: 'cancelled' }, { where: { ...mine, state: 'waiting' } });
    const [ran] = await Job.update({ cancelWanted: true }, { where: { ...mine, state: 'running' } });
    return waited + ran > 0;
  }

  /**
   * Forgets jobs that have been over for a day: what came of them holds samples of records, as the files do that go
   * with them.
   */
  static async forgetOld(now: Date): Promise<void> {
    await Job.destroy({
      where: {
        state: ['done', 'failed', 'cancelled'],
        madeAt: { [Op.lt]: new Date(now.getTime() - 24 * 3600 * 1000) },
      },
    });
  }

  /** What a worker had in hand is taken from it: where no other server can be, it is gone. */
  static async takeOver(): Promise<void> {
    await Job.update({ beatAt: new Date(0) }, { where: { state: ['running', 'saving'] } });
  }

  /** Goes on with what another server, or this one before, had begun. */
  async resume(): Promise<void> {
    if ((await Job.count({ where: { state: unfinished } })) > 0) this.wake();
  }

  private wake(): void {
    if (this.closing) return;
    if (!this.worker) {
      const worker = new Worker(this.thread, { workerData: this.options });
      worker.unref();
      // Whatever ends a thread ends it between the steps of a job, which the next one goes on with.
      worker.on('error', () => undefined);
      worker.on('exit', () => {
        if (this.worker !== worker) return;
        this.worker = null;
        if (!this.closing) setTimeout(() => void this.resume().catch(() => undefined), 1000).unref();
      });
      this.worker = worker;
    }
    this.worker.postMessage('look');
  }

  /** Ends the thread; a job in hand is gone on with when a server starts again. */
  async close(): Promise<void> {
    this.closing = true;
    await this.worker?.terminate();
  }
}

const ownedBy = (owner: JobOwner | undefined) => (owner ? { ownerKind: owner.kind, ownerId: owner.id } : {});

async function refuseTooMany(portalId: number, owner: JobOwner): Promise<void> {
  const begun = await Job.count({ where: { portalId, state: unfinished, ...ownedBy(owner) } });
  if (begun >= mostOfMember)
    throw new Problem(
      429,
      'too-many-jobs',
      `${begun} things are being done for you already. Wait until one is over, or stop one.`,
    );
  // Jobs are forgotten after a day.
  if ((await Job.count({ where: { portalId, ...ownedBy(owner) } })) >= mostInADay)
    throw new Problem(
      429,
      'too-many-jobs',
      `${mostInADay} things were done for you within a day, each in a job of its own. Come back tomorrow.`,
    );
}

function stateOf(job: Job): JobState {
  return {
    id: job.id,
    kind: job.kind,
    state: job.state,
    done: job.done,
    total: job.total,
    result: job.result === null ? null : (JSON.parse(job.result) as unknown),
  };
}
