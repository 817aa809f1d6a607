import { PassThrough } from 'node:stream';
import { buffer } from 'node:stream/consumers';
import ExcelJS from 'exceljs';
import { expect, it } from 'vitest';
import { asFile, readAll } from '../../test/file-bytes';
import { exportSpreadsheet } from './export-spreadsheet';

/** Letters of one to four bytes in UTF-8, in other places of each row, so that pieces of the file end within some. */
const texts = Array.from({ length: 6000 }, (_, i) => `${'x'.repeat(i % 7)}äß€漢😀 ${i}`);

/** As the product writes it: the sheet stands before what it needs. */
async function ours(rows: string[]): Promise<Buffer> {
  const pages = async function* () {
    yield { columns: ['text'], records: rows.map((cell) => ({ cells: [cell], masked: [] })) };
  };
  const parts: Buffer[] = [];
  for await (const part of exportSpreadsheet('texts', () => null, pages())) parts.push(part);
  return Buffer.concat(parts);
}

/** As most programs write it: with the texts of all cells in a part of their own. */
async function shared(rows: string[]): Promise<Buffer> {
  const stream = new PassThrough();
  const written = buffer(stream);
  const book = new ExcelJS.stream.xlsx.WorkbookWriter({ stream, useSharedStrings: true });
  const sheet = book.addWorksheet('texts');
  for (const text of ['text', ...rows]) sheet.addRow([text]).commit();
  await book.commit();
  return written;
}

it('a spreadsheet is read to the last letter and row, wherever the pieces of its parts end', async () => {
  for (const written of [ours, shared])
    for (const more of [0, 1, 2, 3]) {
      const all = ['y'.repeat(more), ...texts].slice(more === 0 ? 1 : 0);
      const { rows } = await readAll(asFile(await written(all)));
      expect(rows.length).toBe(all.length);
      expect(rows.flatMap(([text], i) => (text === all[i] ? [] : [[text, all[i]]]))).toEqual([]);
    }
});

it('of many that are read beside each other none loses its end', async () => {
  const bytes = await ours(['a', 'b']);
  for (let i = 0; i < 20; i++)
    expect(await Promise.all(Array.from({ length: 8 }, async () => (await readAll(asFile(bytes))).rows))).toEqual(
      Array.from({ length: 8 }, () => [['a'], ['b']]),
    );
});
