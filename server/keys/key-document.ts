import { actionsTold, type ActionTold } from '../actions/action-told';
import { tableInfo, type TableInfo } from '../columns/column-info';
import type { ColumnInfo } from '../columns/column-info';
import { tableRights } from '../../core/access/rights';
import { printPath, readPath } from '../../core/definition/path';
import { findTable, plainLabel } from '../../core/table/catalogue';
import { at, NotFound, viewSql } from '../gate/gate';
import { inputInfo } from '../columns/input-info';
import { problem, problemAnswer } from '../http/open-api';
import { isSourceAway } from '../sources/connection-problem';
import type { PortalVisit } from '../visits/member-visit';
import { exampleOf } from './examples';

type Json = Record<string, unknown>;

const json = (schema: Json, example?: unknown): Json => ({
  content: { 'application/json': { schema, ...(example === undefined ? {} : { example }) } },
});
const ref = (name: string): Json => ({ $ref: `#/components/schemas/${name}` });
const strict = (properties: Json, required: string[] = Object.keys(properties)): Json => ({
  type: 'object',
  required,
  properties,
});
const refused = { $ref: '#/components/responses/Problem' };
const text = { type: 'string' };

/**
 * The document (OpenAPI 3.1.1) of what one key has: the tables that its service sees or fills, with their columns, and
 * the operations that are its right, under what is published now. Examples are invented, and tell nothing of what is
 * there.
 */
export async function keyDocument(visit: PortalVisit): Promise<Json> {
  const { definition, catalogue } = visit;
  const { slug, name } = definition.portal;
  const under = `/api/v1/portals/${slug}`;
  const actions = await actionsTold(visit);
  const paths: Json = {};
  const schemas: Json = { Problem: problem };
  const tags: Json[] = [];
  for (const { name: table } of catalogue.tables) {
    const info = await infoOf(visit, table);
    if (!info) continue;
    const inputs = new Map(
      [...(info.fills ?? []), ...info.changes].flatMap((path) => {
        const input = inputInfo(visit, table, readPath(path)![0]!);
        return input ? [[path, input] as const] : [];
      }),
    );
    const own = new OfTable(info, inputs, under);
    tags.push({ name: info.label });
    Object.assign(paths, own.paths(actions.filter((action) => action.table === table)));
    Object.assign(schemas, own.schemas());
  }
  return {
    openapi: '3.1.1',
    info: {
      title: `${name}, as ${visit.name} has it`,
      version: '1',
      summary: 'The tables, columns and operations of this key, under what is published now.',
    },
    servers: [{ url: '/' }],
    security: [{ key: [] }],
    tags,
    paths,
    components: {
      securitySchemes: { key: { type: 'http', scheme: 'bearer', description: 'The key, as it was told once.' } },
      schemas,
      responses: { Problem: problemAnswer },
    },
  };
}

/** Null where the service has nothing of the table, or its source is away. */
async function infoOf(visit: PortalVisit, table: string): Promise<TableInfo | null> {
  try {
    const there = await at(visit, table);
    const found = findTable(there.catalogue, table);
    const { sees, fills } = tableRights(viewSql(there).view(found!));
    if (sees) return await tableInfo(there, table);
    if (fills === null) return null;
    // It may add, and sees nothing.
    return {
      table,
      label: visit.definition.tables[table]?.label ?? plainLabel(table),
      key: [],
      columns: [],
      fills: [...fills].map((column) => printPath([column])),
      changes: [],
      removes: false,
      exports: false,
      through: [],
    };
  } catch (error) {
    if (error instanceof NotFound || isSourceAway(error)) return null;
    throw error;
  }
}

/** What a column holds, as JSON Schema (draft 2020-12). Numbers that JSON can't hold exactly come as text. */
function valueSchema({ type, nullable, choices, maxLength, label }: ColumnInfo): Json {
  const kinds: Record<ColumnInfo['type'], Json> = {
    text: { type: 'string', ...(maxLength === undefined ? {} : { maxLength }) },
    'long text': { type: 'string' },
    'whole number': { type: ['integer', 'string'] },
    decimal: { type: ['string', 'number'] },
    number: { type: ['number', 'string'] },
    'yes/no': { type: 'boolean' },
    date: { type: 'string', format: 'date' },
    'date and time': { type: 'string' },
    time: { type: 'string' },
    'one choice': choices ? { enum: choices } : { type: 'string' },
    'several choices': { type: 'array', items: choices ? { enum: choices } : { type: 'string' } },
    other: {},
  };
  const kind = kinds[type];
  return { title: label, ...(nullable && Object.keys(kind).length > 0 ? { anyOf: [kind, { type: 'null' }] } : kind) };
}

/** As `valueSchema`, as it is read: under a mask it is another, and it may be empty where it is hidden. */
const readSchema = (column: ColumnInfo): Json =>
  column.veiled
    ? { title: column.label, description: 'Masked in some records, which name it under `masked`.' }
    : valueSchema({ ...column, nullable: true });

class OfTable {
  private readonly called: string;
  private readonly at: string;
  constructor(
    private readonly info: TableInfo,
    /** What may be given for columns that can be filled or changed, by their paths. */
    private readonly inputs: ReadonlyMap<string, ColumnInfo>,
    under: string,
  ) {
    this.called = info.table.replaceAll(/[^A-Za-z0-9._-]/g, '_');
    this.at = `${under}/records/${encodeURIComponent(info.table)}`;
  }

  private columns(paths: readonly string[]): ColumnInfo[] {
    return paths.flatMap((path) => this.inputs.get(path) ?? []);
  }

  schemas(): Json {
    const { columns, fills, changes } = this.info;
    const values = (list: ColumnInfo[], schema: (column: ColumnInfo) => Json) =>
      Object.fromEntries(list.map((column) => [column.path, schema(column)]));
    const record = strict({
      id: { type: ['string', 'null'] },
      values: { type: 'object', properties: values(columns, readSchema) },
      masked: { type: 'array', items: text },
    });
    const changed = (column: ColumnInfo) => strict({ from: {}, to: valueSchema(column) });
    return {
      [this.called]: record,
      ...(fills
        ? { [`${this.called}.new`]: { type: 'object', properties: values(this.columns(fills), valueSchema) } }
        : {}),
      ...(changes.length > 0
        ? { [`${this.called}.changes`]: { type: 'object', properties: values(this.columns(changes), changed) } }
        : {}),
    };
  }

  paths(actions: readonly ActionTold[]): Json {
    const { label, fills, changes, removes, columns } = this.info;
    const record = ref(this.called);
    const one = strict({ record }, ['record']);
    const nothing = { description: 'Done.' };
    const tags = [label];
    const operation = (id: string, summary: string, more: Json): Json => ({
      operationId: `${id} ${this.info.table}`,
      summary,
      tags,
      ...more,
    });
    const answer = (status: number, schema: Json, example?: unknown) => ({
      responses: { [status]: { description: 'The answer.', ...json(schema, example) }, default: refused },
    });
    const example = {
      id: '17',
      values: Object.fromEntries(columns.map((column) => [column.path, exampleOf(column)])),
      masked: [],
    };
    const newExample = Object.fromEntries(this.columns(fills ?? []).map((column) => [column.path, exampleOf(column)]));
    const id = { name: 'id', in: 'path', required: true, schema: text };
    const query = (name: string, description: string, schema: Json = text) => ({
      name,
      in: 'query',
      description,
      schema,
    });
    const list = strict(
      {
        records: { type: 'array', items: record },
        next: { type: ['string', 'null'] },
        previous: { type: ['string', 'null'] },
        total: { type: 'integer' },
      },
      ['records', 'next', 'previous'],
    );
    const ofOne = {
      parameters: [id],
      get: operation('read', `One record of ${label}.`, answer(200, one, { record: example })),
      ...(changes.length > 0
        ? {
            patch: operation('change', `Changes a record of ${label}; \`from\` is what was seen.`, {
              requestBody: { required: true, ...json(strict({ changes: ref(`${this.called}.changes`) })) },
              ...answer(200, strict({ record: { anyOf: [record, { type: 'null' }] } })),
            }),
          }
        : {}),
      ...(removes
        ? {
            delete: operation('remove', `Deletes a record of ${label}.`, {
              requestBody: { required: true, ...json(strict({ seen: { type: 'object' } }, [])) },
              responses: { 204: nothing, default: refused },
            }),
          }
        : {}),
    };
    return {
      [this.at]: {
        ...(columns.length > 0
          ? {
              get: operation('list', `Records of ${label}, page by page.`, {
                parameters: [
                  query('filter', 'A condition on columns that are seen, as text.'),
                  query('sort', 'Columns between commas; `-` before one for the other way round.'),
                  query('search', 'Words that stand in what is seen.'),
                  query('columns', 'Columns between commas; all that are seen when absent.'),
                  query('after', 'Where the next page begins: `next` of the one before.'),
                  query('size', 'How many at most.', { type: 'integer', minimum: 1, maximum: 200 }),
                  query('counted', 'Whether `total` is told.', { type: 'boolean', default: true }),
                ],
                ...answer(200, list, { records: [example], next: null, previous: null, total: 1 }),
              }),
            }
          : {}),
        ...(fills
          ? {
              post: operation('add', `Adds a record to ${label}.`, {
                parameters: [
                  {
                    name: 'Idempotency-Key',
                    in: 'header',
                    description: 'The same key adds once, however often it comes within a day.',
                    schema: { type: 'string', minLength: 16, maxLength: 64 },
                  },
                ],
                requestBody: {
                  required: true,
                  ...json(strict({ values: ref(`${this.called}.new`) }), { values: newExample }),
                },
                ...answer(
                  201,
                  strict({ id: { type: ['string', 'null'] }, record: { anyOf: [record, { type: 'null' }] } }),
                ),
              }),
            }
          : {}),
      },
      ...(columns.length === 0 ? {} : { [`${this.at}/{id}`]: ofOne }),
      ...Object.fromEntries(
        actions.map((action) => [
          `${this.at}/{id}/actions/${encodeURIComponent(action.id)}`,
          {
            parameters: [id],
            post: operation(`do ${action.id} with`, action.name, {
              requestBody: { required: true, ...json(askedSchema(action)) },
              ...answer(200, { type: 'object' }),
            }),
          },
        ]),
      ),
    };
  }
}

/** What an action asks, and the press that is counted once. */
const askedSchema = ({ asks }: ActionTold): Json =>
  strict(
    {
      asked: strict(
        Object.fromEntries(asks.map(({ id, column }) => [id, valueSchema(column)])),
        asks.filter(({ required }) => required).map(({ id }) => id),
      ),
      press: { type: 'string', minLength: 16, maxLength: 64 },
    },
    asks.some(({ required }) => required) ? ['asked'] : [],
  );
