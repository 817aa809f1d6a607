import type Joi from 'joi';
import { AlsoAs, FileAnswer, oneFile, type Endpoint } from './endpoint';
import type { Mount } from './mounts';

type Json = Record<string, unknown>;

/**
 * The document of the whole API (OpenAPI 3.1.1), made of the endpoints' own declarations. What a reader can't be told
 * in JSON Schema is left out there, and holds all the same.
 */
export function openApiDocument(mounts: readonly Mount[]): Json {
  const paths: Record<string, Json> = {};
  const taken = new Map<string, number>();
  for (const { under, subject, endpoints } of mounts)
    for (const [name, endpoint] of Object.entries(endpoints)) {
      const times = (taken.get(name) ?? 0) + 1;
      taken.set(name, times);
      const path = `/api${under}${endpoint.path}`;
      const item = (paths[path.replaceAll(/:(\w+)/g, '{$1}')] ??= {});
      item[endpoint.method.toLowerCase()] = {
        // The same ways stand under several addresses: the subject tells them apart.
        operationId: times === 1 ? name : `${name}-${subject.toLowerCase().replaceAll(' ', '-')}`,
        summary: endpoint.says,
        tags: [subject],
        ...operation(path, endpoint),
      };
    }
  return withShared({
    openapi: '3.1.1',
    info: {
      title: 'Stone Porch',
      version: '1',
      summary: 'Portals in which outside people see and edit only their own records.',
    },
    servers: [{ url: '/' }],
    tags: [...new Set(mounts.map(({ subject }) => subject))].map((name) => ({ name })),
    paths,
    components: {
      securitySchemes: {
        member: { type: 'apiKey', in: 'cookie', name: 'stone_porch_member' },
        builder: { type: 'apiKey', in: 'cookie', name: 'stone_porch_builder' },
        key: { type: 'http', scheme: 'bearer' },
      },
      schemas: { Problem: problem },
      responses: { Problem: problemAnswer },
    },
  });
}

/** What every refusal is answered. */
export const problemAnswer = {
  description: 'Why it was refused, in words that can be shown (RFC 9457).',
  content: { 'application/problem+json': { schema: { $ref: '#/components/schemas/Problem' } } },
};

/** RFC 9457, with what some problems say beside it. */
export const problem = {
  type: 'object',
  required: ['type', 'title', 'status', 'detail'],
  properties: {
    type: { type: 'string', pattern: '^urn:stone-porch:problem:' },
    title: { type: 'string' },
    status: { type: 'integer' },
    detail: { type: 'string' },
  },
};

function operation(path: string, { params, query, body, answers, needs, method }: Endpoint): Json {
  return {
    security: needs === null ? [] : [{ [needs]: [] }],
    parameters: [
      ...[...path.matchAll(/:(\w+)/g)].map(([, name]) => ({
        name,
        in: 'path',
        required: true,
        schema: Object.hasOwn(params, name!) ? schemaOf(params[name!]!) : { type: 'string' },
      })),
      ...(query ? queryParameters(query) : []),
      // A page of another site can't send it. With a key there is no cookie that could go along unasked.
      ...(method === 'GET' || needs === 'key'
        ? []
        : [{ name: 'x-stone-porch', in: 'header', required: true, schema: { type: 'string' } }]),
    ],
    ...(body === null ? {} : { requestBody: requestBody(body) }),
    responses: {
      ...Object.fromEntries(Object.entries(answers).map(([status, answer]) => [status, response(answer)])),
      default: { $ref: '#/components/responses/Problem' },
    },
  };
}

function queryParameters(query: Joi.ObjectSchema): Json[] {
  const { properties = {}, required = [] } = schemaOf(query) as {
    properties?: Record<string, Json>;
    required?: string[];
  };
  return Object.entries(properties).map(([name, schema]) => ({
    name,
    in: 'query',
    required: required.includes(name),
    schema,
  }));
}

function requestBody(body: Joi.Schema | typeof oneFile): Json {
  if (body !== oneFile) return { required: true, content: { 'application/json': { schema: schemaOf(body) } } };
  const file = { type: 'string', contentMediaType: 'application/octet-stream' };
  return {
    required: true,
    content: {
      'multipart/form-data': { schema: { type: 'object', required: ['file'], properties: { file } } },
    },
  };
}

function response(answer: Endpoint['answers'][number]): Json {
  if (answer === null) return { description: 'Done.' };
  const asText = (types: readonly string[]) => Object.fromEntries(types.map((type) => [type, { schema: {} }]));
  if (answer instanceof FileAnswer) return { description: 'A file.', content: asText(answer.types) };
  const [json, types] = answer instanceof AlsoAs ? [answer.json, answer.types] : [answer, []];
  return {
    description: 'The answer.',
    content: { 'application/json': { schema: schemaOf(json) }, ...asText(types) },
  };
}

const told = new WeakMap<Joi.Schema, Json>();

/** JSON Schema (draft 2020-12) of what a Joi schema takes; one object for one schema. */
function schemaOf(schema: Joi.Schema): Json {
  let known = told.get(schema);
  if (!known) {
    const { $schema: _dialect, ...json } = schema['~standard'].jsonSchema.input({ target: 'draft-2020-12' });
    known = withNull(json) as Json;
    told.set(schema, known);
  }
  return known;
}

/** Joi tells that null is taken by the type alone, and leaves it out of the values that it lists. */
function withNull(value: unknown): unknown {
  if (Array.isArray(value)) return value.map(withNull);
  if (typeof value !== 'object' || value === null) return value;
  const { enum: listed, type } = value as { enum?: unknown; type?: unknown };
  const isMissing = Array.isArray(listed) && Array.isArray(type) && type.includes('null') && !listed.includes(null);
  return {
    ...Object.fromEntries(Object.entries(value).map(([key, each]) => [key, withNull(each)])),
    ...(isMissing ? { enum: [...(listed as unknown[]), null] } : {}),
  };
}

/**
 * The document with each shared schema said once, under `components`: what stands under `$defs` within a schema, where
 * no reference of the document leads, and the copies of it that Joi makes wherever it is used.
 */
function withShared(document: Json & { components: Json & { schemas: Json } }): Json {
  // By the keys of a schema, so that few are written out to be compared.
  const shared = new Map<string, { text: string; name: string }[]>();
  const keysOf = (value: object) => Object.keys(value).join('\n');
  const done = new WeakMap<object, unknown>();
  const { schemas } = document.components;
  const lifted = (value: object): unknown => {
    if (Array.isArray(value)) return value.map(lift);
    const { $defs = {}, ...rest } = value as { $defs?: Json };
    for (const [name, definition] of Object.entries($defs as Record<string, object>)) {
      if (Object.hasOwn(schemas, name)) continue;
      schemas[name] = {};
      const keys = keysOf(definition);
      shared.set(keys, [...(shared.get(keys) ?? []), { text: JSON.stringify(definition), name }]);
      schemas[name] = Object.fromEntries(Object.entries(definition).map(([key, each]) => [key, lift(each)]));
    }
    const alike = shared.get(keysOf(rest));
    const text = alike && JSON.stringify(rest);
    const same = alike?.find((each) => each.text === text);
    if (same) return { $ref: `#/components/schemas/${same.name}` };
    return Object.fromEntries(
      Object.entries(rest).map(([key, each]) => [
        key,
        key === '$ref' && typeof each === 'string' ? each.replace('#/$defs/', '#/components/schemas/') : lift(each),
      ]),
    );
  };
  const lift = (value: unknown): unknown => {
    if (typeof value !== 'object' || value === null) return value;
    if (!done.has(value)) done.set(value, lifted(value));
    return done.get(value);
  };
  const paths = lift(document.paths);
  return { ...document, paths, components: { ...document.components, schemas } };
}
