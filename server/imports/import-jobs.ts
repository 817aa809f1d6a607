import type { BringInput, LookInput, ReadInput, TableInput } from './import-inputs';
import { bring, type FileRows, type BringOutcome, type PlacedVisit, type RefusedRow, NotFound } from '../gate/gate';
import type { CoreServices } from '../definitions/portal-services';
import type { PortalDefinition } from '../../core/definition/definition';
import { findTable, type Catalogue } from '../../core/table/catalogue';
import { rememberPlan, suggestPlan, type ImportPlan, type RememberedPlan } from '../../core/table/import-plan';
import { kindOfDrawn, type DrawnColumn } from '../../core/table/drawn';
import { note } from '../drafts/column-notes';
import { csvLine } from '../formats/export-text';
import { fileBytes, keepFile } from '../files/stored-file';
import { isOwnFile } from './own-file';
import { Problem } from '../../core/refusals/problem';
import type { JobContext } from '../jobs/run-job';
import { countRightsChange } from '../store/rights-revision';
import { writeAudit } from '../audit/audit';
import { Builder, ImportMapping, StoredFile } from '../store/models';
import { Member } from '../store/people-models';
import { FileProblem } from '../formats/file-problem';
import type { Bytes, FileFacts } from '../formats/file-facts';
import { rowsOf } from '../formats/file-rows';
import { fileToTable, previewFile, type FilePreview } from './file-to-table';
import { builderVisit } from '../visits/builder-visit';
import { jobVisit } from '../visits/job-visit';
import { mappingOf, refuseNotKept } from './kept-table';

/** The file that a job is about, which must be of the same portal; a member's must be one that they sent. */
async function fileOf({ services, job }: JobContext, id: string): Promise<{ file: StoredFile; bytes: Bytes }> {
  const file = await StoredFile.findOne({ where: { id, portalId: job.portalId, purpose: 'import' } });
  if (!file || !(await isOwnFile(job, id))) throw new NotFound('file');
  return { file, bytes: () => fileBytes(services.store.sequelize, file.id) };
}

function factsOf(file: StoredFile): FilePreview {
  const preview = JSON.parse(file.facts) as Partial<FilePreview>;
  if (!preview.facts) throw new Problem(409, 'file', 'The file was not read through yet.');
  return preview as FilePreview;
}

/** Reads a file through; what is found stays with it. */
export async function readThrough(
  context: JobContext,
  input: ReadInput,
): Promise<FilePreview & { file: string; name: string }> {
  const { file, bytes } = await fileOf(context, input.file);
  const preview = await previewFile(bytes, input.sheet, (rows) => context.progress(rows));
  await file.update({ facts: JSON.stringify(preview) });
  return { ...preview, file: file.id, name: file.name };
}

/** Makes a table of a file. */
export async function makeFromFile(context: JobContext, input: TableInput): Promise<{ rows: number; table: string }> {
  // Tables are builders' to make.
  if (context.job.ownerKind === 'member') throw new NotFound('table');
  const { file, bytes } = await fileOf(context, input.file);
  const { plan } = input;
  const { facts, rows } = factsOf(file);
  const { source, definition } = await jobVisit(context.services, context.job, plan.name);
  if (definition.source.connection !== undefined)
    throw new Problem(
      422,
      'source',
      "Tables can only be made in Stone Porch's own database. This portal has its records in a connected one.",
    );
  const finer = plan.columns
    .filter((column) => kindOfDrawn(column.type) !== undefined)
    .map(({ name, type, nullable }): DrawnColumn => ({
      name,
      type,
      required: !nullable,
      unique: false,
      initial: null,
    }));
  const made = await fileToTable(
    source,
    await source.catalogue(true),
    bytes,
    facts,
    plan,
    (done) => context.progress(done, rows),
    () => context.saving(),
  );
  // Every server, and this one's own threads, know the tables as they were.
  await countRightsChange(context.services.store.sequelize);
  if (finer.length > 0)
    await note(context.services.store.sequelize, {
      portalId: context.job.portalId,
      builderId: context.job.ownerId,
      table: plan.name,
      columns: finer,
      colours: {},
    });
  return { rows: made, table: plan.name };
}

/** How a file would go into a table, before a person has said anything of it. */
export async function planFor(
  services: CoreServices,
  portalId: number,
  builderId: number,
  fileId: string,
  tableName: string,
): Promise<{ plan: ImportPlan; remembered: boolean }> {
  const file = await StoredFile.findOne({ where: { id: fileId, portalId, purpose: 'import' } });
  if (!file) throw new NotFound('file');
  const { catalogue, definition } = await builderVisit(services, portalId, builderId, tableName);
  return planIn(file, catalogue, definition, tableName, tableName);
}

/** A plan for a table of a catalogue; what was said the last time is kept under `remembered`. */
export async function planIn(
  file: StoredFile,
  catalogue: Catalogue,
  definition: PortalDefinition,
  tableName: string,
  remembered: string,
): Promise<{ plan: ImportPlan; remembered: boolean }> {
  const table = findTable(catalogue, tableName);
  if (!table) throw new NotFound('table');
  const kept = await ImportMapping.findOne({ where: { portalId: file.portalId, tableName: remembered } });
  const notes = Object.hasOwn(definition.tables, tableName) ? definition.tables[tableName]! : {};
  const labels = Object.fromEntries(
    Object.entries(notes.columns ?? {}).flatMap(([column, { label }]) => (label ? [[column, label]] : [])),
  );
  const before = kept && (JSON.parse(kept.mapping) as RememberedPlan);
  const { facts, columns } = factsOf(file);
  const plan = suggestPlan(
    { format: facts.format, columns },
    catalogue,
    table,
    labels,
    before,
    (other) => definition.tables[other]?.titleColumn,
  );
  return { plan, remembered: before !== null };
}

/** What came of looking or of bringing; the refused records can be fetched as a file. */
export interface ImportResult {
  outcome: BringOutcome;
  refusedFile: string | null;
}

/** Looks what bringing a file would do, and writes nothing. */
export async function checkImport(context: JobContext, input: LookInput): Promise<ImportResult> {
  return runImport(context, input, null);
}

/** Brings a file, if it would do the same as when it was looked at. */
export async function doImport(context: JobContext, input: BringInput): Promise<ImportResult> {
  const { mode, digest, plan } = input;
  const result = await runImport(context, input, { mode, expected: digest, beforeKeeping: () => context.saving() });
  const { portalId } = context.job;
  await writeAudit(portalId, await whoBegan(context), 'imported', inWords(plan.table, result.outcome));
  const tableName = mappingOf(plan.table, input.steward);
  const kept = await ImportMapping.findOne({ where: { portalId, tableName } });
  const { file } = await fileOf(context, input.file);
  await ImportMapping.upsert({
    portalId,
    tableName,
    mapping: JSON.stringify(
      rememberPlan(plan, factsOf(file).facts.format, kept && (JSON.parse(kept.mapping) as RememberedPlan)),
    ),
  });
  return result;
}

/** Who a job is of, as the log says it. */
async function whoBegan({ job }: JobContext): Promise<string> {
  const who =
    job.ownerKind === 'member' ? await Member.findByPk(job.ownerId ?? 0) : await Builder.findByPk(job.ownerId ?? 0);
  return who ? `${who.name} <${who.email}>` : 'somebody who is gone';
}

export const inWords = (table: string, { added, changed, refused }: BringOutcome): string =>
  `into ${table}: ${added} added, ${changed} changed, ${refused} refused`;

async function runImport(
  context: JobContext,
  input: LookInput,
  write: Parameters<typeof bring>[4]['write'],
): Promise<ImportResult> {
  const found = await fileOf(context, input.file);
  const { plan } = input;
  const visit = await jobVisit(context.services, context.job, plan.table, true);
  refuseNotKept(visit, plan.table, input.steward);
  return importAs(context, visit, found, plan, write);
}

/** Looks what bringing a file would do as whoever the visit is of, or does it. */
export async function importAs(
  context: JobContext,
  visit: PlacedVisit,
  { file, bytes }: { file: StoredFile; bytes: Bytes },
  plan: ImportPlan,
  write: Parameters<typeof bring>[4]['write'],
): Promise<ImportResult> {
  const { facts, rows } = factsOf(file);
  const places = plan.columns.map((column) => facts.headers.indexOf(column.header));
  const missing = plan.columns.find((_, i) => places[i]! < 0);
  if (missing) throw new FileProblem(`The file has no column "${missing.header}".`);
  const reasons = new Map<number, string>();
  const outcome = await bring(visit.source, visit, plan, () => fileRows(bytes, facts, places), {
    write,
    progress: (done) => context.progress(done, rows),
    onRefused: (row) => reasons.set(row.line, reasonText(row)),
  });
  return { outcome, refusedFile: reasons.size === 0 ? null : await keepRefused(context, file, bytes, facts, reasons) };
}

async function* fileRows(bytes: Bytes, facts: FileFacts, places: number[]): AsyncGenerator<FileRows> {
  for await (const { rows, lines, typed } of rowsOf(bytes, facts))
    yield {
      rows: rows.map((row) => places.map((place) => row[place]!)),
      lines,
      typed: typed?.map((row) => places.map((place) => row[place] ?? false)),
    };
}

function reasonText(row: RefusedRow): string {
  return row.cells.map(({ header, reason }) => `${header}: ${reason}`).join(' ');
}

const keptFor = 24 * 3600 * 1000;
const reasonHeader = 'Why it was refused';

/**
 * The refused records with all their columns as they came, and the reasons in one more, to be mended and brought again.
 */
async function keepRefused(
  { services, job }: JobContext,
  file: StoredFile,
  bytes: Bytes,
  facts: FileFacts,
  reasons: ReadonlyMap<number, string>,
): Promise<string> {
  const again = facts.headers.includes(reasonHeader) ? facts.headers.indexOf(reasonHeader) : -1;
  const without = (row: string[]) => row.filter((_, i) => i !== again);
  const lines = async function* (): AsyncGenerator<string> {
    yield `\ufeff${csvLine([...without(facts.headers), reasonHeader])}`;
    for await (const { rows, lines: numbers } of rowsOf(bytes, facts)) {
      const refused = rows.flatMap((row, i) =>
        reasons.has(numbers[i]!) ? [csvLine([...without(row), reasons.get(numbers[i]!)!])] : [],
      );
      if (refused.length > 0) yield refused.join('');
    }
  };
  const name = `${file.name.replace(/\.[^.]*$/, '')} refused.csv`;
  const kept = await keepFile(
    services.store.sequelize,
    {
      portalId: job.portalId,
      name,
      purpose: 'download',
      type: 'text/csv; charset=utf-8',
      goneAt: new Date(Date.now() + keptFor),
    },
    lines(),
    1024 ** 3,
  );
  return kept.id;
}
