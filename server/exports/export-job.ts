import Joi from 'joi';
import { condition } from '../../core/definition/condition-schema';
import {
  NotFound,
  exportAcross,
  exportLined,
  type ExportedPage,
  type LinedPage,
  type ListQuestion,
} from '../gate/gate';
import { resolvePath, findTable, isPathProblem } from '../../core/table/catalogue';
import { readPath } from '../../core/definition/path';
import { keepFile } from '../files/stored-file';
import { jobVisit } from '../visits/job-visit';
import type { JobContext } from '../jobs/run-job';
import { exportSpreadsheet, spreadsheetType } from '../formats/export-spreadsheet';
import { csvText, exportFormats, exportText, type TextFormat } from '../formats/export-text';

/** What an export is asked for. */
export interface ExportOrder {
  table: string;
  format: TextFormat | 'xlsx';
  guard: boolean;
  /** What its columns are called, by their paths; as they are when absent. */
  called?: Record<string, string>;
  /** What the file is called, without its ending; as its table when absent. */
  name?: string;
  question: Pick<ListQuestion, 'columns' | 'sort' | 'where' | 'search'>;
  /** How many records there were when it was asked for. */
  total: number | null;
}

const paths = Joi.array()
  .items(Joi.array().items(Joi.string().max(200)).min(1).max(9))
  .max(3000);

/** As it is kept; what it asks for is held against the view when it is read. */
export const exportOrder = Joi.object<ExportOrder>({
  table: Joi.string().max(105).required(),
  format: Joi.valid(...Object.keys(exportFormats), 'xlsx').required(),
  guard: Joi.boolean().strict().required(),
  called: Joi.object().pattern(Joi.string().max(2000), Joi.string().max(300)).max(3000),
  name: Joi.string().max(100),
  question: Joi.object({
    columns: paths.required(),
    sort: Joi.array()
      .items(Joi.object({ path: Joi.array().items(Joi.string()).required(), descending: Joi.boolean().required() }))
      .required(),
    where: Joi.array().items(condition).required(),
    search: Joi.string().allow('').required(),
  }).required(),
  total: Joi.number().integer().allow(null).required(),
});

const largest = 4 * 1024 ** 3;
const keptFor = 24 * 3600 * 1000;

/** Writes the records that were asked for into a file, which is kept for a day. */
export async function exportToFile(
  context: JobContext,
  order: ExportOrder,
): Promise<{ file: string; name: string; rows: number; size: number }> {
  const visit = await jobVisit(context.services, context.job, order.table);
  const table = findTable(visit.catalogue, order.table);
  if (!table) throw new NotFound('table');
  let rows = 0;
  const counted = async function* <P extends ExportedPage | LinedPage>(pages: AsyncGenerator<P>): AsyncGenerator<P> {
    for await (const page of pages) {
      rows += 'lines' in page ? page.lines.length : page.records.length;
      yield page;
      await context.progress(rows, order.total);
    }
  };
  const pages = () => counted(exportAcross(visit, order.table, order.question));
  const columnOf = (path: string) => {
    const found = resolvePath(visit.catalogue, table, readPath(path) ?? []);
    return isPathProblem(found) ? null : found.column;
  };
  const isSheet = order.format === 'xlsx';
  const bytes =
    order.format === 'xlsx'
      ? exportSpreadsheet(order.name ?? order.table, columnOf, pages(), (path) => order.called?.[path] ?? path)
      : order.format === 'csv'
        ? csvText(counted(exportLined(visit, order.table, order.question, order)), order)
        : exportText(order.format, pages(), order);
  const face = {
    portalId: context.job.portalId,
    name: `${order.name ?? order.table}.${isSheet ? 'xlsx' : exportFormats[order.format as TextFormat].ending}`,
    purpose: 'download',
    type: isSheet ? spreadsheetType : exportFormats[order.format as TextFormat].type,
    goneAt: new Date(Date.now() + keptFor),
  };
  const file = await keepFile(context.services.store.sequelize, face, bytes, largest);
  return { file: file.id, name: file.name, rows, size: file.size };
}
