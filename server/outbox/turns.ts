/** Work that is done in turns: one at a time, when somebody wakes it and now and then. */
export interface Turns {
  wake(): void;
  /** Waits for the turn in hand and begins no other. */
  close(): Promise<void>;
}

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
    close: async () => {
      closed = true;
      clearInterval(timer);
      await going;
    },
  };
}
