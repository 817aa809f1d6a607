import type { Bytes, FileFacts } from '../server/formats/file-facts';
import { readFacts, rowsOf } from '../server/formats/file-rows';

/** Bytes in memory as a file that can be read again and again, in small parts so that every seam is met. */
export function asFile(bytes: Buffer | string, part = 1 << 14): Bytes {
  const whole = Buffer.from(bytes as string);
  return async function* () {
    for (let from = 0; from < whole.length; from += part) yield whole.subarray(from, from + part);
  };
}

/** Everything that a file holds. */
export async function readAll(
  bytes: Bytes,
  sheet?: string,
): Promise<{ facts: FileFacts; rows: string[][]; lines: number[] }> {
  const facts = await readFacts(bytes, sheet);
  const rows: string[][] = [];
  const lines: number[] = [];
  for await (const batch of rowsOf(bytes, facts)) {
    rows.push(...batch.rows);
    lines.push(...batch.lines);
  }
  return { facts, rows, lines };
}
