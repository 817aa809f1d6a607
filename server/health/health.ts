import express, { type Router } from 'express';
import type { Services } from '../portals/services';
import { clusterState, ShareWaited } from './cluster-state';

/** So long the database may take to answer before the server counts as not ready, in milliseconds. */
const patience = 2000;
const askedEvery = 1000;

interface Told {
  database: boolean;
  /** Of a cluster: how many nodes it has, and the share of the last while in which writes waited for a slow one. */
  cluster?: { nodes: number; waiting: number };
}

/**
 * For those who look after the server, and programs of theirs: whether it lives, whether it can do its work, and how
 * many of its processes do. Nothing of anybody's records.
 */
export function healthRoutes(services: Pick<Services, 'store' | 'among'>): Router {
  const router = express.Router();
  const { among } = services;
  let asked: { at: number; answer: Promise<Told> } | null = null;
  const share = new ShareWaited();
  const look = async (): Promise<Told> => {
    // A node without the others tells its status and does nothing else.
    await services.store.sequelize.authenticate();
    const state = await clusterState(services.store.sequelize);
    return {
      database: true,
      ...(state ? { cluster: { nodes: state.nodes, waiting: Number(share.take(state.waited).toFixed(3)) } } : {}),
    };
  };
  // However many ask, the database is asked once a second.
  const ready = (): Promise<Told> => {
    const now = Date.now();
    if (!asked || now - asked.at > askedEvery) asked = { at: now, answer: inTime(look, { database: false }) };
    return asked.answer;
  };
  router.get('/live', (_req, res) => void res.set('Cache-Control', 'no-store').json({ live: true }));
  router.get('/ready', async (_req, res) => {
    const { database, cluster } = await ready();
    res
      .set('Cache-Control', 'no-store')
      .status(database ? 200 : 503)
      .set(database ? {} : { 'Retry-After': '5' })
      .json({ ready: database, database, processes: { live: among.live, wanted: among.wanted }, cluster });
  });
  return router;
}

/** What comes of the work, or this where it fails or takes too long. */
async function inTime<T>(work: () => Promise<T>, otherwise: T): Promise<T> {
  let late: NodeJS.Timeout | undefined;
  const waited = new Promise<T>((resolve) => {
    late = setTimeout(() => resolve(otherwise), patience);
  });
  try {
    return await Promise.race([work().catch(() => otherwise), waited]);
  } finally {
    clearTimeout(late);
  }
}
