/** Work that is done in turns: one at a time, when somebody wakes it and now and then. */
export interface Turns {
  wake(): void;
  /** Wakes it a moment later, when whoever asked has had their answer: how busy it then is tells them nothing. */
  wakeSoon(): void;
  /** Waits for the turn in hand and begins no other. */
  close(): Promise<void>;
}

/** Longer than an answer at the door takes, in milliseconds. */
const soon = 150;
/** What was asked less than so long ago may still wait for its answer. */
const answered = 100;

/** The moment before which whoever asked has had their answer by now: only what is older is looked into. */
export const answeredBefore = (): Date => new Date(Date.now() - answered);

/** `turn` handles its own faults; one that throws is begun again at the next moment. */
export function inTurns(turn: (isClosed: () => boolean) => Promise<void>, every: number): Turns {
  let closed = false;
  let again = false;
  let going: Promise<void> | null = null;
  const isClosed = () => closed;
  const wake = (): void => {
    again = true;
    if (closed || going) return;
    going = (async () => {
      while (again && !closed) {
        again = false;
        await turn(isClosed).catch(() => undefined);
      }
      going = null;
    })();
  };
  const timer = setInterval(wake, every);
  timer.unref();
  return {
    wake,
    wakeSoon: () => void setTimeout(wake, soon).unref(),
    close: async () => {
      closed = true;
      clearInterval(timer);
      await going;
    },
  };
}
