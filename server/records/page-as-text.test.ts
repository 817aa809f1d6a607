import type { Response } from 'express';
import { expect, it } from 'vitest';
import { Problem } from '../../core/refusals/problem';
import type { ViewRecord } from '../gate/gate';
import { sendPage } from './page-as-text';

/** What is sent of a page: its type and its text. */
async function sent(type: 'text/csv' | 'application/jsonl', away: string[] = []): Promise<string[]> {
  const said: string[] = [];
  const note = (text: string) => {
    said.push(text);
    return res;
  };
  const res = { type: note, send: note } as unknown as Response;
  const records: ViewRecord[] = [
    { id: '1', values: { code: 'A, or B', note: '=1+1' }, masked: [] },
    { id: '2', values: { code: 'C' }, masked: [] },
  ];
  await sendPage(res, type, [['code'], ['note']], { records, next: null, previous: null, away }, true);
  return said;
}

it('is a record a line, in the order of what was asked; a hidden cell is empty or absent', async () => {
  expect(await sent('text/csv')).toEqual(['text/csv; charset=utf-8', 'code,note\r\n"A, or B",\'=1+1\r\nC,\r\n']);
  expect(await sent('application/jsonl')).toEqual([
    'application/jsonl; charset=utf-8',
    '{"code":"A, or B","note":"=1+1"}\n{"code":"C"}\n',
  ]);
});

it('is not sent where a column’s source is away, since a line can’t say so', async () => {
  for (const type of ['text/csv', 'application/jsonl'] as const) {
    const problem = await sent(type, ['lab.code']).catch((error: unknown) => error);
    expect(problem).toBeInstanceOf(Problem);
    expect(problem).toMatchObject({ status: 503, type: 'source' });
  }
});
