import express, { type Router } from 'express';
import type { Services } from '../portals/services';

/** So long the database may take to answer before the server counts as not ready, in milliseconds. */
const patience = 2000;

/**
 * For those who look after the server, and programs of theirs: whether it lives, whether it can do its work, and
 * whether it can do its work. Nothing of anybody's records.
 */
export function healthRoutes(services: Pick<Services, 'store'>): Router {
  const router = express.Router();
  router.get('/health/live', (_req, res) => void res.set('Cache-Control', 'no-store').json({ live: true }));
  router.get('/health/ready', async (_req, res) => {
    const database = await answersInTime(() => services.store.sequelize.authenticate());
    res
      .set('Cache-Control', 'no-store')
      .status(database ? 200 : 503)
      .set(database ? {} : { 'Retry-After': '5' })
      .json({ ready: database, database });
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
