import express, { type Router } from 'express';
import type { Services } from '../portals/services';

/** So long the database may take to answer before the server counts as not ready, in milliseconds. */
const patience = 2000;
const askedEvery = 1000;

/**
 * For those who look after the server, and programs of theirs: whether it lives, whether it can do its work, and how
 * many of its processes do. Nothing of anybody's records.
 */
export function healthRoutes(services: Pick<Services, 'store' | 'among'>): Router {
  const router = express.Router();
  const { among } = services;
  let asked: { at: number; answer: Promise<boolean> } | null = null;
  // However many ask, the database is asked once a second.
  const ready = (): Promise<boolean> => {
    const now = Date.now();
    if (!asked || now - asked.at > askedEvery)
      asked = { at: now, answer: answersInTime(() => services.store.sequelize.authenticate()) };
    return asked.answer;
  };
  router.get('/health/live', (_req, res) => void res.set('Cache-Control', 'no-store').json({ live: true }));
  router.get('/health/ready', async (_req, res) => {
    const database = await ready();
    res
      .set('Cache-Control', 'no-store')
      .status(database ? 200 : 503)
      .set(database ? {} : { 'Retry-After': '5' })
      .json({ ready: database, database, processes: { live: among.live, wanted: among.wanted } });
  });
  return router;
}

async function answersInTime(work: () => Promise<unknown>): Promise<boolean> {
  let late: NodeJS.Timeout | undefined;
  const waited = new Promise<boolean>((resolve) => {
    late = setTimeout(() => resolve(false), patience);
  });
  const answered = work().then(
    () => true,
    () => false,
  );
  try {
    return await Promise.race([answered, waited]);
  } finally {
    clearTimeout(late);
  }
}
