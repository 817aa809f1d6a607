import { Readable } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import type { Request, Response } from 'express';
import Joi from 'joi';
import { csvText, exportFormats, exportText, type TextFormat } from '../formats/export-text';
import {
  at,
  count,
  exportAcross,
  exportLined,
  exportPage,
  linedPage,
  smallPage,
  type ExportedPage,
  type LinedPage,
  type ListQuestion,
  type PlacedVisit,
} from '../gate/gate';
import { endpoint, FileAnswer, type Entry } from '../http/endpoint';
import { wantedType } from '../http/media';
import type { Share } from '../http/shares';
import { jobState } from '../jobs/job-answers';
import type { ExportOrder } from '../exports/export-job';
import type { JobOwner, Jobs, JobState } from '../jobs/jobs';
import type { PortalVisit } from '../visits/member-visit';
import { logExport } from './log-export';
import { questionOf, text, type ListQuery } from './record-question';

type Asked = Pick<ListQuery, 'columns' | 'sort' | 'filter' | 'search'> & { guard: boolean };

const narrowing = {
  sort: text(1000),
  filter: text(8000).default(''),
  search: text(200).trim().default(''),
  guard: Joi.boolean().default(true),
};
const asked = { columns: text(8000), ...narrowing };

const textFormats = Object.keys(exportFormats) as TextFormat[];

/** What is taken out of a section of a page, which has columns and an order of its own. */
export const takenOutQuery = Joi.object<Asked & { view?: string; format: TextFormat }>({
  ...asked,
  view: text(60),
  format: Joi.valid(...textFormats).required(),
});

export const exportedFile = new FileAnswer(...Object.values(exportFormats).map(({ type }) => type));

/** Records taken out as a file of text, as they are read. */
export function exportEndpoints(entry: Entry<{ visit: PortalVisit }>) {
  return {
    export: endpoint({
      method: 'GET',
      path: '/exports/:table',
      says:
        'Records as a file, of the format named or of the first that is accepted; `guard` puts a sign before cells ' +
        'that a spreadsheet would take for formulas.',
      entry,
      query: Joi.object<Asked & { format?: TextFormat }>({ ...asked, format: Joi.valid(...textFormats) }),
      answers: { 200: exportedFile },
      does: async ({ visit: whole, params: { table }, query: { format: named, guard, ...query }, req, res }) => {
        const format = named ?? acceptedFormat(req, res);
        const visit = await at(whole, table);
        const question = questionOf(visit, table, { ...query, size: 1 }, null);
        const begun = () => logExport(whole, table, format);
        await sendExport(res, visit, table, question, { format, guard, begun });
      },
    }),
  };
}

function acceptedFormat(req: Request, res: Response): TextFormat {
  const byType = new Map(textFormats.map((format) => [exportFormats[format].type.split(';')[0]!, format]));
  const [first, ...others] = byType.keys();
  return byType.get(wantedType(req, res, [first!, ...others]))!;
}

/**
 * Writes what a question finds to the response, as a file of text. In one for people, columns have the names that
 * `called` gives to their paths. `begun` is told once it is sure that it may be had.
 */
export async function sendExport(
  res: Response,
  visit: PlacedVisit,
  table: string,
  question: ListQuestion,
  { format, guard, begun }: { format: TextFormat; guard: boolean; begun: () => Promise<void> },
  called?: ReadonlyMap<string, string>,
): Promise<void> {
  const { giveWay, isWaitedFor } = res.locals as Share;
  // The first page is small: whether it may be had at all is told soon.
  let room = smallPage;
  const atOnce = () => (isWaitedFor() ? Math.min(room, smallPage) : room);
  // The first page tells whether it may be had at all, before anything is sent.
  const begin = async <P extends Page>(pages: AsyncGenerator<P>, write: (pages: AsyncGenerator<P>) => Text) => {
    const named = headed(pages, called);
    const from = performance.now();
    const first = await named.next();
    if (!first.done) room = roomFor(first.value, performance.now() - from);
    return write(continued(first, named, giveWay));
  };
  const file = await (format === 'csv'
    ? begin(exportLined(visit, table, question, { guard }, atOnce), (pages) => csvText(pages, { guard }))
    : begin(exportAcross(visit, table, question, atOnce), (pages) => exportText(format, pages, { guard })));
  await begun();
  res.attachment(`${table}.${exportFormats[format].ending}`).set('Content-Type', exportFormats[format].type);
  await pipeline(Readable.from(file), res);
}

type Page = ExportedPage | LinedPage;
type Text = AsyncGenerator<string>;

/** Signs that a page of an answer may hold. */
const mostSigns = 4_000_000;

/** So long reading a page may take, in milliseconds: a database that is not ours may end what takes seconds. */
const mostTime = 500;

/** How many records like those of a page are read at once, which took so long: few where they hold long texts. */
function roomFor(page: Page, took: number): number {
  const isLined = 'lines' in page;
  const lengths = isLined ? page.lines.map((line) => line.length) : page.records.map(({ cells }) => sizeOf(cells));
  const signs = lengths.reduce((sum, length) => sum + length, 0);
  const fits = Math.floor((mostSigns * lengths.length) / Math.max(1, signs));
  const soon = Math.floor((mostTime * lengths.length) / Math.max(1, took));
  const most = isLined ? Math.min(linedPage, Math.max(exportPage, soon)) : exportPage;
  return Math.max(1, Math.min(most, fits));
}

const sizeOf = (cells: readonly unknown[]): number =>
  cells.reduce<number>((sum, value) => sum + (typeof value === 'string' ? value.length : 8), 0);

/** Records taken out by a job, which keeps the file. */
export function exportJobEndpoints(entry: Entry<{ visit: PortalVisit; owner: JobOwner }>, jobs: Jobs) {
  return {
    startExport: endpoint({
      method: 'POST',
      path: '/exports/:table',
      says: 'Begins a job that keeps the records as a file.',
      entry,
      body: Joi.object<Asked & { format: TextFormat | 'xlsx' }>({
        ...asked,
        format: Joi.valid(...textFormats, 'xlsx').required(),
      }),
      answers: { 202: jobState },
      does: async ({ visit: whole, owner, params: { table }, body: { format, guard, ...query } }) => {
        const visit = await at(whole, table);
        const question = questionOf(visit, table, { ...query, size: 1 }, null);
        const of = { ...visit, portalId: whole.portalId, name: whole.name, email: whole.email };
        return beginExport(jobs, owner, of, table, question, { format, guard });
      },
    }),
  };
}

/** Begins a job that keeps what a question finds as a file, if it may be had at all. */
export async function beginExport(
  jobs: Jobs,
  owner: JobOwner,
  visit: PlacedVisit & Pick<PortalVisit, 'portalId' | 'name' | 'email'>,
  table: string,
  question: ListQuestion,
  order: Pick<ExportOrder, 'format' | 'guard' | 'called' | 'name'>,
): Promise<JobState> {
  // The first page tells whether it may be had, before a job is begun.
  const pages = exportAcross(visit, table, question, () => smallPage);
  await pages.next();
  await pages.return(undefined);
  await logExport(visit, table, order.format);
  const { columns, sort, where, search } = question;
  const total = await count(visit.source, visit, table, where).catch(() => null);
  return jobs.start('export', visit.portalId, owner, {
    table,
    ...order,
    question: { columns, sort, where, search },
    total,
  } satisfies ExportOrder);
}

async function* headed<P extends Page>(
  pages: AsyncGenerator<P>,
  called: ReadonlyMap<string, string> = new Map(),
): AsyncGenerator<P, void> {
  for await (const page of pages) yield { ...page, columns: page.columns.map((path) => called.get(path) ?? path) };
}

/** The rest of the pages after the first was asked for. */
async function* continued<P extends Page>(
  first: IteratorResult<P, void>,
  rest: AsyncGenerator<P>,
  between: () => Promise<void>,
): AsyncGenerator<P> {
  if (first.done) return;
  yield first.value;
  for await (const page of rest) {
    await between();
    yield page;
  }
}
