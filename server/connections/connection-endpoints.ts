import Joi from 'joi';
import { form, listOf, said, whole } from '../http/answers';
import { endpoint } from '../http/endpoint';
import { asBuilder } from '../sessions/as-builder';
import type { TriedConnection } from '../sources/try-connection';
import {
  databaseKinds,
  tlsModes,
  type ConnectionForm,
  type ConnectionInfo,
  type ConnectionServices,
} from './connections';

const text = (max: number) => Joi.string().trim().max(max);

const connection = Joi.object<ConnectionForm>({
  name: Joi.string()
    .pattern(/^[a-z][a-z0-9_-]{0,39}$/, 'lower-case letters, digits, - and _')
    .required(),
  kind: Joi.valid(...databaseKinds).required(),
  host: Joi.string().hostname().max(255).required(),
  port: Joi.number().port().required(),
  database: Joi.when('kind', { is: 'postgresql', then: text(64).required(), otherwise: text(64).allow('').required() }),
  user: text(128).required(),
  password: Joi.string().max(1000).allow('').required(),
  tls: Joi.valid(...tlsModes).required(),
  builders: Joi.array().items(Joi.number().integer()).unique().min(1).max(1000).allow(null).default(null),
});

const known = form<ConnectionInfo>({
  name: said,
  kind: Joi.valid(...databaseKinds),
  host: said,
  port: whole,
  database: said,
  user: said,
  tls: Joi.valid(...tlsModes),
  usedBy: listOf(said),
  builders: listOf(whole).allow(null),
});

const tried = form<TriedConnection>({ schemas: listOf(said), warnings: listOf(said) });

/** Databases that portals may have their records in. For signed-in builders. */
export function connectionEndpoints(services: ConnectionServices) {
  const { connections } = services;
  const entry = asBuilder(services);
  return {
    connections: endpoint({
      method: 'GET',
      path: '/connections',
      says: 'The databases that are connected, without their passwords.',
      entry,
      answers: { 200: form<{ connections: ConnectionInfo[] }>({ connections: listOf(known) }) },
      does: async ({ builder }) => ({ connections: await connections.list(builder.id) }),
    }),
    tryConnection: endpoint({
      method: 'POST',
      path: '/connections/try',
      says: 'Tries a connection without keeping it.',
      entry,
      body: connection,
      answers: { 200: tried },
      does: async ({ builder, body }) => {
        await connections.refuseOthers([body.name], builder.id);
        return connections.try(body);
      },
    }),
    keepConnection: endpoint({
      method: 'PUT',
      path: '/connections',
      says: 'Keeps a connection that can be used; an empty password keeps the one that is there.',
      entry,
      body: connection,
      answers: { 200: tried },
      does: ({ builder, body }) => connections.save(body, builder.id),
    }),
    schemas: endpoint({
      method: 'GET',
      path: '/connections/:name/schemas',
      says: 'The schemas of a connected database, asked of it now.',
      entry,
      answers: { 200: form<{ schemas: string[] }>({ schemas: listOf(said) }) },
      does: async ({ builder, params: { name } }) => {
        await connections.refuseOthers([name], builder.id);
        return { schemas: await connections.schemas(name) };
      },
    }),
    forgetConnection: endpoint({
      method: 'DELETE',
      path: '/connections/:name',
      says: 'Forgets a connection that no portal uses.',
      entry,
      answers: { 204: null },
      does: async ({ builder, params: { name } }) => {
        await connections.refuseOthers([name], builder.id);
        await connections.remove(name);
      },
    }),
  };
}
