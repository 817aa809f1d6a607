import { parse } from 'csv-parse/sync';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { delimitedRecords } from './delimited-records';
import { FileProblem } from './file-problem';
import { tries } from '../../test/thorough';

/** The whole text read at once by the reference package (csv-parse); null where it finds a fault. */
function reference(text: string, delimiter: string): string[][] | null {
  try {
    return parse(text, { delimiter, skip_empty_lines: true, relax_column_count: true }) as string[][];
  } catch {
    return null;
  }
}

async function ours(parts: string[], delimiter: string, size: number): Promise<string[][] | null> {
  const records: string[][] = [];
  try {
    for await (const some of delimitedRecords(
      (async function* () {
        yield* parts;
      })(),
      delimiter,
      size,
    ))
      records.push(...some);
    return records;
  } catch (error) {
    expect(error).toBeInstanceOf(FileProblem);
    return null;
  }
}

/** Words that texts are put together from; the second list makes sound ones only. */
const anyWords = ['a', 'bc', ' ', '"', '""', ',', ';', '\n', '\r\n', '\r', '"x,y"', '"\n"', '"q""q"', 'é', '""""'];

const cell = fc.oneof(
  fc.constantFrom('', 'a', 'b c', ' d ', '"e"', '"f,g"', '"h\nh"', '"i""i"', '""', '"\r\n"'),
  fc.string().map((text) => `"${text.replaceAll('"', '""')}"`),
);

const parted = (text: string, places: number[]) => {
  const at = [...new Set(places.map((place) => place % (text.length + 1)))].toSorted((a, b) => a - b);
  return [...at.map((place, i) => text.slice(at[i - 1] ?? 0, place)), text.slice(at.at(-1) ?? 0)];
};

describe('delimited records', () => {
  it(
    'are those of the reference package, in whatever parts the text comes, and faults are found where it finds ' +
      'them',
    async () => {
      let faults = 0;
      await fc.assert(
        fc.asyncProperty(
          fc.array(fc.constantFrom(...anyWords), { maxLength: 40 }),
          fc.array(fc.nat(80), { maxLength: 4 }),
          fc.integer({ min: 1, max: 30 }),
          fc.constantFrom(',', ';'),
          async (words, places, size, delimiter) => {
            const text = words.join('');
            const expected = reference(text, delimiter);
            if (expected === null) faults++;
            expect(await ours(parted(text, places), delimiter, size)).toEqual(expected);
          },
        ),
        { numRuns: tries(1000, 4000), examples: [[['\r', '"\n"', '\n', ','], [], 1, ',']] },
      );
      expect(faults).toBeGreaterThan(500);
    },
  );

  it('come whole from sound texts with either end of line', async () => {
    await fc.assert(
      fc.asyncProperty(
        fc.array(fc.array(cell, { minLength: 1, maxLength: 4 }), { minLength: 1, maxLength: 12 }),
        fc.constantFrom('\n', '\r\n', '\r'),
        fc.array(fc.nat(400), { maxLength: 6 }),
        fc.integer({ min: 1, max: 60 }),
        async (rows, newline, places, size) => {
          const text = rows.map((row) => row.join(',')).join(newline);
          expect(await ours(parted(text, places), ',', size)).toEqual(reference(text, ','));
        },
      ),
      { numRuns: tries(400, 1500) },
    );
  });
});
