import Joi from 'joi';
import { endpoint, type Entry } from '../http/endpoint';
import type { PortalVisit } from '../visits/member-visit';
import { keyDocument } from './key-document';

/** What a program asks of its own key. */
export function keyApiEndpoints(entry: Entry<{ visit: PortalVisit }>) {
  return {
    keyDocument: endpoint({
      method: 'GET',
      path: '/openapi.json',
      says: 'The document (OpenAPI 3.1) of what this key has: its tables, columns and operations, and nothing else.',
      entry,
      answers: { 200: Joi.object().unknown() },
      does: ({ visit }) => keyDocument(visit),
    }),
  };
}
