import { setTimeout as sleep } from 'node:timers/promises';

/** Milliseconds between the moments at which the door answers. */
const usualStep = 25;

/**
 * Does something at the door, and answers at the next even step from its beginning: that a member's row was found costs
 * a fraction of a millisecond, which over many answers would tell that there is one. A try that was right is answered
 * at once where `faultsAlone`. A `step`, in milliseconds, is well longer than the work: where some of it falls before a
 * step and some behind, the same fraction tells again.
 */
export async function evenly<T>(
  work: () => Promise<T>,
  { faultsAlone = false, step = usualStep }: { faultsAlone?: boolean; step?: number } = {},
): Promise<T> {
  const began = performance.now();
  const wait = async (): Promise<void> => {
    const taken = performance.now() - began;
    await sleep(Math.ceil(taken / step) * step - taken);
  };
  try {
    const result = await work();
    if (!faultsAlone) await wait();
    return result;
  } catch (error) {
    await wait();
    throw error;
  }
}
