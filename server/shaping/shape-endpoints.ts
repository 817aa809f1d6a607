import { askedColumns } from '../../sections/definition';
import { type Renaming } from '../../core/definition/renamed-catalogue';
import { openDraft, type BenchServices, type OpenDraft } from '../bench/bench';
import {
  addColumn,
  drawTable,
  refuseTaken,
  renameColumn,
  renameTable,
  changeType,
  bringBack,
  listGone,
  takeColumnAway,
  takeTableAway,
  makeIndex,
  missingIndexes,
  readSavedQuery,
  type Gone,
  type MissingIndex,
  type TypeChange,
} from '../gate/gate';
import Joi from 'joi';
import type { Script, ScriptTable } from '../../core/table/script';
import { drawnTypes, type DrawnColumn, type DrawnTable } from '../../core/table/drawn';
import { writeAudit } from '../audit/audit';
import { Problem } from '../../core/refusals/problem';
import { cell, form, listOf, said, saidOrNull, whole, yesNo } from '../http/answers';
import { behind, endpoint, reply } from '../http/endpoint';
import { runScript } from './run-script';
import type { ScriptDialect } from '../formats/script-node';
import { readScriptAside } from '../threads/aside';
import { refuseRename, refuseStray, usesAtSource } from '../drafts/follow-rename';
import { changeShape, type ShapeChange } from './shape-changes';

const identifier = Joi.string()
  .pattern(/^[a-z][a-z0-9_]{0,55}$/, 'lower-case letters, digits and _')
  .required();

/** A comma would divide a choice in two where several are kept together. */
const choice = Joi.string()
  .trim()
  .min(1)
  .max(100)
  .pattern(/^[^,]*$/, 'a choice without commas');

const column = Joi.object<DrawnColumn>({
  name: identifier,
  type: Joi.valid(...drawnTypes).required(),
  required: Joi.boolean().strict().required(),
  unique: Joi.boolean().strict().required(),
  initial: Joi.string().max(2000).allow(null, '').required(),
  maxLength: Joi.number().integer().min(1).max(4000),
  scale: Joi.number().integer().min(0).max(10),
  currency: Joi.string().pattern(/^[A-Z]{3}$/, 'a currency of ISO 4217, like EUR'),
  to: Joi.string().max(64),
  choices: Joi.when('type', {
    is: 'several choices',
    then: Joi.array().items(choice).unique().min(1).max(64).required(),
    otherwise: Joi.when('type', {
      is: 'one choice',
      then: Joi.array().items(choice).unique().min(1).max(500).required(),
      otherwise: Joi.forbidden(),
    }),
  }),
}).required();

const colours = Joi.object<Record<string, number>>()
  .pattern(Joi.string().max(100), Joi.number().integer().min(0).max(7))
  .default({});

const tableBody = Joi.object<DrawnTable & { colours: Record<string, Record<string, number>> }>({
  name: identifier,
  columns: Joi.array().items(column).min(1).max(200).required(),
  stamps: Joi.boolean().strict().required(),
  ids: Joi.object({
    kind: Joi.valid('number', 'random', 'short').required(),
    of: Joi.when('kind', { is: 'short', then: identifier.required(), otherwise: Joi.forbidden() }),
  }),
  colours: Joi.object().pattern(Joi.string().max(64), colours).default({}),
});

const newName = Joi.object<{ to: string }>({ to: identifier });

const gone = form<Gone>({ key: said, table: saidOrNull, was: said, at: said });

/** Whether tables can be shaped here, what can be had back, and which indexes would help. */
interface ShapeState {
  own: boolean;
  gone: Gone[];
  missing: MissingIndex[];
}

/** A portal that uses something, and where, in words. */
interface UsedIn {
  portal: string;
  uses: string[];
}

/** What a script would make. */
interface LookedThrough {
  tables: (ScriptTable & { rows: number })[];
  remarks: string[];
}

const typeChange = form<TypeChange>({
  kept: whole,
  lost: whole,
  samples: listOf(form<TypeChange['samples'][number]>({ id: said, value: said, reason: said })),
});

/** In the product's own database alone; elsewhere the database's own people shape tables. */
const atOwnTables = (services: BenchServices) =>
  behind(openDraft(services), async (given) => {
    const { draft } = given;
    if (draft.definition.source.connection !== undefined)
      throw new Problem(
        422,
        'source',
        "Only tables in Stone Porch's own database are shaped here. This portal has its records in a connected one.",
      );
    await draft.source.catalogue(true);
    return { ...given, draft: { ...draft, ...(await services.sources.of(draft.definition)) } };
  });

/** Saved queries speak of tables by their names, in words that nobody changes for them. */
function refuseQueried({ catalogue }: OpenDraft, table: string, of?: string): void {
  const query = catalogue.tables.find(
    (each) =>
      each.query !== undefined &&
      readSavedQuery(each.query, catalogue).reads.includes(table) &&
      (of === undefined || new RegExp(`\\b${of.replaceAll(/\W/g, '.')}\\b`, 'i').test(each.query)),
  );
  if (query)
    throw new Problem(
      422,
      'invalid-values',
      `The saved query ${query.name} reads it by this name. Change or delete that first.`,
    );
}

const log = ({ portal }: OpenDraft, signed: string, about: string) =>
  writeAudit(portal.id, signed, 'changed the shape', about);

/** What was drawn is noted with the columns: finer types and colours are the definition's. */
const noting = (
  { portal }: OpenDraft,
  builderId: number,
  table: string,
  columns: DrawnColumn[],
  marks: Record<string, Record<string, number>>,
  type = false,
): ShapeChange => ({ what: 'note', portalId: portal.id, builderId, table, columns, colours: marks, type });

/** Shaping tables: drawn, changed, renamed, deleted and had back. */
export function shapeEndpoints(services: BenchServices) {
  const entry = atOwnTables(services);
  /** Changes the shape of the portal's own schema, and what follows from that. */
  const changing = <T>({ definition }: OpenDraft, change: ShapeChange, alter: () => Promise<T>): Promise<T> =>
    changeShape(services, definition.source.schema, change, alter);
  const rename = async (draft: OpenDraft, signed: string, renaming: Renaming) => {
    const { definition, source } = draft;
    refuseQueried(draft, renaming.table, renaming.column);
    const before = await source.catalogue();
    refuseTaken(before, renaming);
    await refuseRename(definition.source, before, renaming);
    const { table, column: of, to } = renaming;
    await changing(draft, { what: 'rename', source: definition.source, before, renaming }, () =>
      of === undefined ? renameTable(source, before, table, to) : renameColumn(source, before, table, of, to),
    );
    await log(draft, signed, `called ${of === undefined ? table : `${table}.${of}`} ${to}`);
  };
  return {
    shape: endpoint({
      method: 'GET',
      path: '/shape',
      says: 'Whether tables can be shaped here, what was deleted in the last day, and which indexes would help.',
      entry: openDraft(services),
      answers: {
        200: form<ShapeState>({
          own: yesNo,
          gone: listOf(gone),
          missing: listOf(form<MissingIndex>({ table: said, column: said, statement: said })),
        }),
      },
      does: async ({ draft: { definition, source, catalogue } }) => {
        const isOwn = definition.source.connection === undefined;
        return {
          own: isOwn,
          gone: isOwn ? await listGone(source, new Date()) : [],
          missing: await missingIndexes(source, catalogue, askedColumns(definition, catalogue)),
        };
      },
    }),
    uses: endpoint({
      method: 'GET',
      path: '/shape/uses',
      says: 'Where a table or a column is used, in every portal over the source.',
      entry: openDraft(services),
      query: Joi.object<{ table: string; column?: string }>({
        table: Joi.string().max(64).required(),
        column: Joi.string().max(64),
      }),
      answers: {
        200: form<{ uses: UsedIn[] }>({ uses: listOf(form<UsedIn>({ portal: said, uses: listOf(said) })) }),
      },
      does: async ({ draft: { definition, source }, query: { table, column: of } }) => ({
        uses: await usesAtSource(definition.source, await source.catalogue(), table, of),
      }),
    }),
    drawTable: endpoint({
      method: 'POST',
      path: '/shape/tables',
      says: 'Makes a table of drawn columns.',
      entry,
      body: tableBody,
      answers: { 201: form<{ table: string }>({ table: said }) },
      does: async ({ draft, builder, signed, body: { colours: marks, ...drawn } }) => {
        await refuseStray(draft.definition.source, await draft.source.catalogue(), { table: drawn.name });
        await changing(draft, noting(draft, builder.id, drawn.name, drawn.columns, marks), () =>
          drawTable(draft.source, draft.catalogue, drawn),
        );
        await log(draft, signed, `drew the table ${drawn.name}`);
        return { table: drawn.name };
      },
    }),
    addColumn: endpoint({
      method: 'POST',
      path: '/shape/tables/:table/columns',
      says: 'Adds a drawn column to a table.',
      entry,
      body: Joi.object<{ column: DrawnColumn; colours: Record<string, number> }>({ column, colours }),
      answers: { 201: null },
      does: async ({ draft, builder, signed, params: { table }, body: { column: drawn, colours: marks } }) => {
        const place = { table, column: drawn.name };
        await refuseStray(draft.definition.source, await draft.source.catalogue(), place);
        await changing(draft, noting(draft, builder.id, table, [drawn], { [drawn.name]: marks }), () =>
          addColumn(draft.source, draft.catalogue, table, drawn),
        );
        await log(draft, signed, `added ${table}.${drawn.name}`);
      },
    }),
    changeType: endpoint({
      method: 'POST',
      path: '/shape/tables/:table/columns/:column/type',
      says: 'Says which values would not fit another type; with `apply` the column has it from then on.',
      entry,
      body: Joi.object<{ column: DrawnColumn; apply: boolean }>({ column, apply: Joi.boolean().strict().required() }),
      answers: { 200: typeChange },
      does: async ({ draft, builder, signed, params: { table, column: of }, body: { column: drawn, apply } }) => {
        const change = () => changeType(draft.source, draft.catalogue, table, of, drawn, apply);
        if (!apply) return change();
        const changed = await changing(draft, noting(draft, builder.id, table, [drawn], {}, true), change);
        await log(draft, signed, `made ${table}.${of} hold ${drawn.type}`);
        return changed;
      },
    }),
    script: endpoint({
      method: 'POST',
      path: '/shape/script',
      says: 'Says what a script would make; with `apply` it is made.',
      entry,
      body: Joi.object<{ text: string; dialect: ScriptDialect; apply: boolean }>({
        text: Joi.string().max(5_000_000).required(),
        dialect: Joi.valid('MariaDB', 'PostgreSQL').required(),
        apply: Joi.boolean().strict().required(),
      }),
      answers: {
        200: form<LookedThrough>({ tables: listOf(cell), remarks: listOf(said) }),
        201: form<{ tables: string[]; rows: number }>({ tables: listOf(said), rows: whole }),
      },
      does: async ({ draft, signed, body: { text, dialect, apply } }) => {
        const { source, catalogue } = draft;
        const script = await readScriptAside(text, dialect);
        await refuseNames(draft, script);
        if (apply) {
          const made = await changing(draft, { what: 'nothing more' }, () =>
            runScript(source, catalogue, script, true),
          );
          await log(draft, signed, `made ${made.tables.join(', ')} of a script`);
          return reply(201, made);
        }
        await runScript(source, catalogue, script, false);
        const rowsOf = (table: string) =>
          script.rows.filter((rows) => rows.table === table).reduce((sum, rows) => sum + rows.values.length, 0);
        return {
          tables: script.tables.map((table) => ({ ...table, rows: rowsOf(table.name) })),
          remarks: script.remarks,
        };
      },
    }),
    renameTable: endpoint({
      method: 'POST',
      path: '/shape/tables/:table/rename',
      says: 'Calls a table something else, and everything that speaks of it follows.',
      entry,
      body: newName,
      answers: { 204: null },
      does: ({ draft, signed, params: { table }, body: { to } }) => rename(draft, signed, { table, to }),
    }),
    renameColumn: endpoint({
      method: 'POST',
      path: '/shape/tables/:table/columns/:column/rename',
      says: 'Calls a column something else, and everything that speaks of it follows.',
      entry,
      body: newName,
      answers: { 204: null },
      does: ({ draft, signed, params, body: { to } }) =>
        rename(draft, signed, { table: params.table, column: params.column, to }),
    }),
    deleteTable: endpoint({
      method: 'DELETE',
      path: '/shape/tables/:table',
      says: 'Deletes a table, which can be had back for a day.',
      entry,
      answers: { 204: null },
      does: async ({ draft, signed, params: { table } }) => {
        refuseQueried(draft, table);
        await changing(draft, { what: 'nothing more' }, () => takeTableAway(draft.source, draft.catalogue, table));
        await log(draft, signed, `deleted the table ${table}`);
      },
    }),
    deleteColumn: endpoint({
      method: 'DELETE',
      path: '/shape/tables/:table/columns/:column',
      says: 'Deletes a column, which can be had back for a day.',
      entry,
      answers: { 204: null },
      does: async ({ draft, signed, params: { table, column: of } }) => {
        refuseQueried(draft, table, of);
        await changing(draft, { what: 'nothing more' }, () => takeColumnAway(draft.source, draft.catalogue, table, of));
        await log(draft, signed, `deleted ${table}.${of}`);
      },
    }),
    bringBack: endpoint({
      method: 'POST',
      path: '/shape/gone/:key/back',
      says: 'Has back what was deleted in the last day.',
      entry,
      answers: { 200: gone },
      does: async ({ draft, signed, params: { key } }) => {
        const back = await changing(draft, { what: 'nothing more' }, () =>
          bringBack(draft.source, draft.catalogue, key, new Date()),
        );
        await log(draft, signed, `brought back ${back.table === null ? back.was : `${back.table}.${back.was}`}`);
        return back;
      },
    }),
    makeIndex: endpoint({
      method: 'POST',
      path: '/shape/indexes',
      says: 'Makes an index over a column.',
      entry,
      body: Joi.object<{ table: string; column: string }>({
        table: Joi.string().max(64).required(),
        column: Joi.string().max(64).required(),
      }),
      answers: { 204: null },
      does: ({ draft: { source, catalogue }, body }) => makeIndex(source, catalogue, body),
    }),
  };
}

async function refuseNames({ definition, catalogue }: OpenDraft, { tables }: Script): Promise<void> {
  const there = tables.find((table) => catalogue.tables.some((known) => known.name === table.name));
  if (there) throw new Problem(422, 'invalid-values', `There is a table ${there.name} already. Rename one of the two.`);
  const twice = tables.find((table, i) => tables.findIndex((other) => other.name === table.name) !== i);
  if (twice)
    throw new Problem(422, 'invalid-values', `The script makes two tables ${twice.name}. Rename one of the two.`);
  for (const table of tables) await refuseStray(definition.source, catalogue, { table: table.name });
}
