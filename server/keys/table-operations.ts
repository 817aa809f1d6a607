import type { ActionTold } from '../actions/action-told';
import type { ColumnInfo, TableInfo } from '../columns/column-info';
import { exportFormats } from '../formats/export-text';
import { pageTypes } from '../records/page-as-text';
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

/** What may be done with a table, and whether what changed in its records may be read. */
export type KeyTable = TableInfo & { history: boolean };

/** What one key has of a table, for its document. */
export class OfTable {
  private readonly called: string;
  private readonly at: string;
  constructor(
    private readonly info: KeyTable,
    /** What may be given for columns that can be filled or changed, by their paths. */
    private readonly inputs: ReadonlyMap<string, ColumnInfo>,
    private readonly under: string,
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
    const { label, fills, changes, removes, exports, columns } = this.info;
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
    const asText = (types: readonly string[]): Json =>
      Object.fromEntries(types.map((type) => [type.split(';')[0], { schema: {} }]));
    // Told in words: a client that is generated would take an answer of several types for any of them.
    const answer = (status: number, schema: Json, example?: unknown, also: readonly string[] = []) => {
      const isAlso = also.length > 0;
      const description = `The answer${isAlso ? `; as ${also.join(' or ')} where \`Accept\` asks for that` : ''}.`;
      return { responses: { [status]: { description, ...json(schema, example) }, default: refused } };
    };
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
    const narrowed = [
      query('filter', 'A condition on columns that are seen, as text.'),
      query('sort', 'Columns between commas; `-` before one for the other way round.'),
      query('search', 'Words that stand in what is seen.'),
      query('columns', 'Columns between commas; all that are seen when absent.'),
      query('guard', 'Whether cells of CSV that a spreadsheet would take for formulas begin with an apostrophe.', {
        type: 'boolean',
        default: true,
      }),
    ];
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
                  ...narrowed,
                  query('after', 'Where the next page begins: `next` of the one before.'),
                  query('size', 'How many at most.', { type: 'integer', minimum: 1, maximum: 200 }),
                  query('counted', 'Whether `total` is told.', { type: 'boolean', default: true }),
                ],
                ...answer(200, list, { records: [example], next: null, previous: null, total: 1 }, pageTypes),
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
      ...(exports
        ? {
            [`${this.under}/exports/${encodeURIComponent(this.info.table)}`]: {
              get: operation('take out', `All records of ${label}, as a file.`, {
                parameters: [
                  ...narrowed,
                  query('format', 'As `Accept` says when absent.', { enum: Object.keys(exportFormats) }),
                ],
                responses: {
                  200: {
                    description: 'The file.',
                    content: asText(Object.values(exportFormats).map(({ type }) => type)),
                  },
                  default: refused,
                },
              }),
            },
          }
        : {}),
      ...(this.info.history
        ? {
            [`${this.at}/{id}/history`]: {
              parameters: [id],
              get: operation('history of', `What changed in a record of ${label}, the newest first.`, {
                parameters: [query('skip', 'Lines of the pages before.', { type: 'integer', minimum: 0 })],
                ...answer(
                  200,
                  strict({
                    lines: { type: 'array', items: { type: 'object' } },
                    next: { type: ['integer', 'null'] },
                  }),
                ),
              }),
            },
          }
        : {}),
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
