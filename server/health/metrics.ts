import { createHash, timingSafeEqual } from 'node:crypto';
import type { Request, RequestHandler } from 'express';
import { collectDefaultMetrics, Gauge, Histogram, Registry } from 'prom-client';
import { col, fn, Op } from 'sequelize';
import { Problem } from '../../core/refusals/problem';
import type { Services } from '../portals/services';
import { OutsideCall } from '../store/call-models';
import { Job } from '../store/models';
import { OutboxMail, Session } from '../store/people-models';
import { clusterState } from './cluster-state';

const hash = (text: string): Buffer => createHash('sha256').update(text).digest();

/** The areas that are told apart, by the beginning of an address. */
const areas = ['api/portals', 'api/builder', 'api/v1', 'api', 'assets', 'build', 'p', 'health', 'metrics'];

/** The kind of address that a request is for: one of few, whatever anybody asks for. */
function areaOf({ originalUrl }: Request): string {
  const path = originalUrl.slice(1).split('?')[0]!;
  return areas.find((area) => path === area || path.startsWith(`${area}/`)) ?? 'other';
}

/** What a pool of connections says of itself; Sequelize tells no more than that it has one. */
interface Pool {
  size: number;
  available: number;
  waiting: number;
}

/**
 * The server's numbers, in the open text format that collectors read: how long requests
 * take by their kind of address, what waits, and what the process uses. No names, no addresses of people, no ids.
 */
export class Metrics {
  private readonly registry = new Registry();
  private readonly requests: Histogram<'method' | 'area' | 'status'>;
  private readonly among: Services['among'];

  constructor({ store, among }: Pick<Services, 'store' | 'among'>) {
    this.among = among;
    const registers = [this.registry];
    collectDefaultMetrics({ register: this.registry });
    this.requests = new Histogram({
      name: 'stone_porch_request_seconds',
      help: 'How long requests took, by method, kind of address and class of status.',
      labelNames: ['method', 'area', 'status'],
      buckets: [0.005, 0.01, 0.025, 0.05, 0.1, 0.25, 0.5, 1, 2.5, 5, 10],
      registers,
    });
    const counted = (name: string, help: string, model: typeof Job | typeof OutboxMail | typeof OutsideCall) =>
      new Gauge({
        name,
        help,
        labelNames: ['state'],
        registers,
        // Each process reads the same tables.
        aggregator: 'first',
        async collect() {
          const rows = (await (model as typeof Job).findAll({
            attributes: ['state', [fn('COUNT', col('*')), 'n']],
            group: ['state'],
            raw: true,
          })) as unknown as { state: string; n: number | bigint }[];
          this.reset();
          for (const { state, n } of rows) this.set({ state }, Number(n));
        },
      });
    counted('stone_porch_jobs', 'Long work, by its state.', Job);
    counted('stone_porch_mails', 'Mails in the outbox, by their state.', OutboxMail);
    counted('stone_porch_calls', 'Calls to services outside, by their state.', OutsideCall);
    new Gauge({
      name: 'stone_porch_sessions',
      help: 'Sessions that are not over.',
      registers,
      aggregator: 'first',
      async collect() {
        this.set(await Session.count({ where: { expiresAt: { [Op.gt]: new Date() } } }));
      },
    });
    new Gauge({
      name: 'stone_porch_own_connections',
      help: "Connections to the product's own tables: open, unused, and what waits for one.",
      labelNames: ['state'],
      registers,
      collect() {
        const { pool } = store.sequelize.connectionManager as unknown as { pool: Pool };
        this.set({ state: 'open' }, pool.size);
        this.set({ state: 'unused' }, pool.available);
        this.set({ state: 'waited for' }, pool.waiting);
      },
    });
    new Gauge({
      name: 'stone_porch_cluster_nodes',
      help: "Nodes of the cluster of the product's own tables, as the one that answers counts them; 0 without.",
      registers,
      aggregator: 'first',
      async collect() {
        this.set((await clusterState(store.sequelize))?.nodes ?? 0);
      },
    });
    new Gauge({
      name: 'stone_porch_cluster_waited_seconds',
      help: 'How long writes waited for a node that is behind (flow control), since the node that answers came up.',
      registers,
      aggregator: 'first',
      async collect() {
        this.set((await clusterState(store.sequelize))?.waited ?? 0);
      },
    });
    new Gauge({
      name: 'stone_porch_processes',
      help: 'Processes of this server: that serve, and that do what one does for all.',
      labelNames: ['what'],
      registers,
      collect() {
        this.set({ what: 'serves' }, 1);
        this.set({ what: 'leads' }, among.leads ? 1 : 0);
      },
    });
    among.ownMetrics = () => this.registry.getMetricsAsJSON();
  }

  /** Times every request. */
  readonly watch: RequestHandler = (req, res, next) => {
    const done = this.requests.startTimer();
    res.once('finish', () =>
      done({ method: req.method, area: areaOf(req), status: `${Math.floor(res.statusCode / 100)}xx` }),
    );
    next();
  };

  /** Tells them to whoever has the token. */
  tell(token: string): RequestHandler {
    const known = hash(`Bearer ${token}`);
    return async (req, res) => {
      if (!timingSafeEqual(hash(req.headers.authorization ?? ''), known)) {
        res.set('WWW-Authenticate', 'Bearer');
        throw new Problem(401, 'not-signed-in', 'The numbers are for whoever has the token of STONE_PORCH_METRICS.');
      }
      const text = await (this.among.metricsOfAll?.() ?? this.registry.metrics());
      res.set('Cache-Control', 'no-store').set('Content-Type', this.registry.contentType).send(text);
    };
  }
}
