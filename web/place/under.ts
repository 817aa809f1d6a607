import { createContext, useContext, type ReactNode } from 'react';

/** A record that is open under its line in a list. */
interface Under {
  section: string;
  id: string;
  /** The record itself. */
  shown: ReactNode;
}

const UnderContext = createContext<Under | null>(null);
export const UnderProvider = UnderContext.Provider;

/** The record that is open under its line in this list; null where none is. */
export function useUnder(section: string): Under | null {
  const under = useContext(UnderContext);
  return under?.section === section ? under : null;
}
