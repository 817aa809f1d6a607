import { openDoor, type Door } from '../receiver/door';

const firstNumber = 500_000;

/**
 * Follows bottles: told that one was handed over it answers with the number of a receipt, the same one however often
 * the same call comes.
 */
export function openBottleTracker(port?: number): Promise<Door> {
  const numbers = new Map<string, string>();
  return openDoor({
    title: 'Bottle tracker',
    port,
    answer: ({ id, data }) => {
      if (typeof data.bottle !== 'string') return { status: 422, body: { detail: 'Which bottle?' } };
      if (!numbers.has(id)) numbers.set(id, `BT-${firstNumber + numbers.size}`);
      return { status: 200, body: { receipt: { number: numbers.get(id) } } };
    },
  });
}
