import type { PortalState } from '../../server/portals/portal-endpoints';
import type { DraftState } from '../../server/drafts/draft';
import { useSyncExternalStore, useEffect } from 'react';

export type { DraftState, PortalState };

export const portalKey = (slug: string) => ['builder', slug, 'portal'];

/** Edits wait for each other, so that each is made on what the one before it left. */
const queues = new Map<string, Promise<unknown>>();

export function enqueue<T>(slug: string, work: () => Promise<T>): Promise<T> {
  const turn = (queues.get(slug) ?? Promise.resolve()).then(work, work);
  const done = turn.catch(() => undefined).then(() => count(slug, -1));
  queues.set(slug, done);
  count(slug, 1);
  return turn;
}

const waiting = new Map<string, number>();
const watchers = new Set<() => void>();

function count(slug: string, by: number): void {
  waiting.set(slug, (waiting.get(slug) ?? 0) + by);
  for (const watcher of watchers) watcher();
}

export const isSaving = (slug: string): boolean => (waiting.get(slug) ?? 0) > 0;

function watch(watcher: () => void): () => void {
  watchers.add(watcher);
  return () => watchers.delete(watcher);
}

/**
 * Whether edits of the portal are on their way to the server; while they are, the browser asks before it leaves the
 * page.
 */
export function useSaving(slug: string): boolean {
  const saving = useSyncExternalStore(watch, () => isSaving(slug));
  useEffect(() => {
    if (!saving) return;
    const guard = (event: BeforeUnloadEvent) => event.preventDefault();
    window.addEventListener('beforeunload', guard);
    return () => window.removeEventListener('beforeunload', guard);
  }, [saving]);
  return saving;
}
