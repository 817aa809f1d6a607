import type { Sequelize } from 'sequelize';
import { Setting } from './models';

/** What a process keeps in memory about a store: made anew for each store that is opened, gone with it. */
export function keptWithStore<T>(make: () => T): () => T {
  const kept = new WeakMap<Sequelize, T>();
  return () => {
    const store = Setting.sequelize;
    if (!store) throw new Error('No store is open.');
    let known = kept.get(store);
    if (known === undefined) {
      known = make();
      kept.set(store, known);
    }
    return known;
  };
}
