import { Readable } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import Joi from 'joi';
import type { Sequelize } from 'sequelize';
import { askCatalogue } from '../../core/access/ask';
import { tableRights } from '../../core/access/rights';
import { viewOf } from '../../core/access/view';
import { columnLabel } from '../../core/definition/definition';
import { findTable, plainLabel, type Catalogue } from '../../core/table/catalogue';
import { importTarget, type ImportTarget } from '../../core/table/import-target';
import type { ImportPlan } from '../../core/table/import-plan';
import { fileBytes } from '../files/stored-file';
import { at, NotFound, type PlacedVisit } from '../gate/gate';
import { form, listOf, said, yesNo } from '../http/answers';
import { endpoint, FileAnswer, oneFile, ownNumber, type Entry } from '../http/endpoint';
import { valid } from '../http/problems';
import { jobState } from '../jobs/job-answers';
import type { JobOwner, Jobs, JobState } from '../jobs/jobs';
import { StoredFile } from '../store/models';
import { refuseSeenBy } from '../visits/entries';
import type { PortalVisit } from '../visits/member-visit';
import { importPlan, keepSent } from './file-endpoints';
import { bringInput, lookInput, readInput, type ReadInput } from './import-inputs';
import { planIn } from './import-jobs';
import { keptBy, mappingOf } from './kept-table';
import { isOwnFile } from './own-file';

const target = form<ImportTarget>({
  name: said,
  label: said,
  columns: listOf(
    form<ImportTarget['columns'][number]>({
      name: said,
      label: said,
      type: Joi.string(),
      identifies: yesNo,
      relation: form<NonNullable<ImportTarget['columns'][number]['relation']>>({
        table: said,
        end: said,
        by: listOf(form<{ name: string; label: string }>({ name: said, label: said })),
      }).optional(),
    }),
  ),
});

const steward = Joi.string().max(64).required();

/** The tables as files may be brought by this person: what they may not fill, and can't ask by, is not there. */
function catalogueTo({ definition, catalogue, person }: PlacedVisit, tableName: string): Catalogue {
  const asked = askCatalogue(definition, catalogue, person);
  const table = findTable(catalogue, tableName);
  if (!table) throw new NotFound('table');
  const rights = tableRights(viewOf(definition, catalogue, table, person));
  const known = findTable(asked, tableName)!;
  const columns = table.columns.filter(
    ({ name, kind }) =>
      kind !== 'file' &&
      (rights.brings(name) || (table.key.includes(name) && known.columns.some((each) => each.name === name))),
  );
  const others = asked.tables.filter(({ name }) => name !== tableName);
  return { ...catalogue, tables: [{ ...table, columns }, ...others] };
}

/** Files that a steward brings into the table that they keep, and the jobs on them. */
export function stewardFileEndpoints(
  sequelize: Sequelize,
  entry: Entry<{ visit: PortalVisit; owner: JobOwner }>,
  jobs: Jobs,
) {
  const begin = (visit: PortalVisit, owner: JobOwner, kind: string, input: object): Promise<JobState> =>
    jobs.start(kind, visit.portalId, owner, input);
  /** The file of the address, where this person sent it. */
  const own = async ({ portalId }: PortalVisit, owner: JobOwner, id: string): Promise<StoredFile> => {
    const file = await StoredFile.findOne({ where: { id, portalId, purpose: 'import' } });
    const by = { portalId, ownerKind: owner.kind, ownerId: owner.id };
    if (!file || !(await isOwnFile(by, id))) throw new NotFound('file');
    return file;
  };
  return {
    bringKeptFile: endpoint({
      method: 'POST',
      path: '/bring/:steward/files',
      says: 'Takes a file for the table that you keep and begins a job that reads it through.',
      entry,
      params: { steward },
      body: oneFile,
      answers: { 202: jobState },
      does: async ({ visit, owner, params, req }) => {
        refuseSeenBy(visit);
        keptBy(visit, params.steward);
        const file = await keepSent(sequelize, visit.portalId, req);
        return begin(visit, owner, 'read a file', { file: file.id });
      },
    }),
    readKeptFile: endpoint({
      method: 'POST',
      path: '/bring/:steward/files/:file/read',
      says: 'Begins a job that reads a file of yours through again, as another sheet.',
      entry,
      params: { steward },
      body: Joi.object<Omit<ReadInput, 'file'>>({ sheet: Joi.any() }),
      answers: { 202: jobState },
      does: async ({ visit, owner, params: { steward: id, file }, body }) => {
        keptBy(visit, id);
        await own(visit, owner, file);
        return begin(visit, owner, 'read a file', valid(readInput, { ...body, file }));
      },
    }),
    keptFilePlan: endpoint({
      method: 'GET',
      path: '/bring/:steward/files/:file/plan',
      says: 'How the columns of a file of yours would go into the table that you keep.',
      entry,
      params: { steward },
      answers: {
        200: form<{ plan: ImportPlan; remembered: boolean; target: ImportTarget }>({
          plan: importPlan,
          remembered: yesNo,
          target,
        }),
      },
      does: async ({ visit: asked, owner, params: { steward: id, file } }) => {
        const { table } = keptBy(asked, id);
        const visit = await at(asked, table);
        const catalogue = catalogueTo(visit, table);
        const { definition } = visit;
        const called = {
          table: (name: string) => definition.tables[name]?.label ?? plainLabel(name),
          column: (of: string, name: string) => columnLabel(definition, of, name, plainLabel),
        };
        return {
          ...(await planIn(await own(asked, owner, file), catalogue, definition, table, mappingOf(table, id))),
          target: importTarget(findTable(catalogue, table)!, catalogue, called),
        };
      },
    }),
    lookAtKeptFile: endpoint({
      method: 'POST',
      path: '/bring/:steward/look',
      says: 'Begins a job that says what bringing a file would come to; nothing is changed.',
      entry,
      params: { steward },
      body: Joi.object<{ file: string; plan: ImportPlan }>({ file: Joi.any(), plan: Joi.any() }),
      answers: { 202: jobState },
      does: async ({ visit, owner, params: { steward: id }, body }) => {
        keptBy(visit, id);
        return begin(visit, owner, 'look at an import', valid(lookInput, { ...body, steward: id }));
      },
    }),
    importKeptFile: endpoint({
      method: 'POST',
      path: '/bring/:steward/import',
      says: 'Begins a job that brings a file, if the same would come of it as when it was looked at.',
      entry,
      params: { steward },
      body: Joi.object<{ file: string; plan: ImportPlan; mode: string; digest: string }>({
        file: Joi.any(),
        plan: Joi.any(),
        mode: Joi.any(),
        digest: Joi.any(),
      }),
      answers: { 202: jobState },
      does: async ({ visit, owner, params: { steward: id }, body }) => {
        keptBy(visit, id);
        return begin(visit, owner, 'import', valid(bringInput, { ...body, steward: id }));
      },
    }),
    refusedOfKeptFile: endpoint({
      method: 'GET',
      path: '/bring/:steward/jobs/:job/refused',
      says: 'The records that a job of yours refused, as a file, each with why.',
      entry,
      params: { steward, job: ownNumber },
      answers: { 200: new FileAnswer('text/csv; charset=utf-8') },
      does: async ({ visit: { portalId }, owner, params: { job }, res }) => {
        const found = await jobs.find(portalId, job, owner);
        const id = (found?.result as { refusedFile?: string | null } | null)?.refusedFile;
        const file = id ? await StoredFile.findOne({ where: { id, portalId, purpose: 'download' } }) : null;
        if (!file) throw new NotFound('file');
        res.attachment(file.name).set({ 'Content-Type': file.type, 'Content-Length': String(file.size) });
        await pipeline(Readable.from(fileBytes(sequelize, file.id)), res);
      },
    }),
  };
}
