import { createContext, useContext } from 'react';

/** What was just done in a portal, said at its foot until the next thing is; some of it can be taken back there. */
export interface DoneHere {
  words: string;
  fault?: true;
  undo?: () => Promise<void>;
}

const DoneContext = createContext<(done: DoneHere | null) => void>(() => undefined);
export const DoneProvider = DoneContext.Provider;

/** Says what was done, where it stays to be read after its own place is gone from the screen. */
export const useDone = (): ((done: DoneHere | null) => void) => useContext(DoneContext);
