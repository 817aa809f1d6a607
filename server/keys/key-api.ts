import Joi from 'joi';
import { endpoint, FileAnswer, type Entry } from '../http/endpoint';
import type { PortalVisit } from '../visits/member-visit';
import { keyDocument } from './key-document';
import { sendReference } from './reference-page';

/** A key's document as a page. */
export const referenceFile = new FileAnswer('text/html');

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
    keyReference: endpoint({
      method: 'GET',
      path: '/reference',
      says: 'The document of this key as a page to read, which needs nothing else: it can be kept as a file.',
      entry,
      answers: { 200: referenceFile },
      does: async ({ visit, res }) => sendReference(res, await keyDocument(visit)),
    }),
  };
}
