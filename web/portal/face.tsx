import { createContext, useContext, useEffect } from 'react';
import type { Look } from '../../core/face/look';
import type { Door } from '../client/portal';

/** What is shown of a portal's face beside its colours: at the door, and on its top. */
export type ShownFace = Pick<NonNullable<Door['face']>, 'logo' | 'welcome'> & { footer: Look['footer'] };

const FaceContext = createContext<ShownFace>({ logo: null, welcome: null, footer: [] });
export const FaceProvider = FaceContext.Provider;
export const useFace = (): ShownFace => useContext(FaceContext);

/** Each comes to those whose portal is written in it. */
const types: Record<Look['type'], () => Promise<unknown>> = {
  stone: () => Promise.resolve(),
  plain: () => import('./types/plain.css'),
  book: () => import('./types/book.css'),
  round: () => import('./types/round.css'),
};

export function useTypes(type: Look['type'] | undefined): void {
  useEffect(() => {
    // Without them the browser's own stand in their place.
    if (type) types[type]().catch(() => undefined);
  }, [type]);
}

/** Gives the whole page a portal's look, for as long as the portal is there. */
export function useWholeLook(look: Look | undefined): void {
  useTypes(look?.type);
  useEffect(() => {
    const root = document.documentElement;
    const values = Object.entries(look?.style ?? {});
    for (const [name, value] of values) root.style.setProperty(name, value);
    if (look && look.theme !== 'device') root.dataset.theme = look.theme;
    return () => {
      for (const [name] of values) root.style.removeProperty(name);
      delete root.dataset.theme;
    };
  }, [look]);
}

/** Ways out of a portal, at the foot of its pages and its door. */
export function Footer({ footer }: { footer: Look['footer'] }) {
  if (footer.length === 0) return null;
  return (
    <footer className="part-foot flex flex-wrap justify-center gap-x-5 gap-y-1 px-4 py-3 text-sm">
      {footer.map(({ label, address }, i) => (
        <a
          key={i}
          href={address}
          className="inline-flex min-h-8 items-center"
          {...(/^https?:/i.test(address) ? { target: '_blank', rel: 'noreferrer' } : {})}
        >
          {label}
        </a>
      ))}
    </footer>
  );
}
