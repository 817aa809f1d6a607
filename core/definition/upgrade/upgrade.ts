import { definitionFormat, definitionVersion } from '../definition';
import { from1to2 } from './1-to-2';
import type { OldDocument } from './old-document';

/** What makes a document of the next format out of one; each leaves what it doesn't know as it is, to be refused. */
const steps: Record<number, (document: OldDocument) => OldDocument> = { 1: from1to2 };

/**
 * A document in today's format: one of an older format is brought up step by step. What is no definition, or of a
 * format that nobody knows, is given back as it is.
 */
export function upgraded(document: unknown): unknown {
  if (typeof document !== 'object' || document === null || Array.isArray(document)) return document;
  let now = document as OldDocument;
  if (now.format !== definitionFormat) return document;
  for (let version = now.formatVersion; typeof version === 'number' && version < definitionVersion; version++) {
    const step = Object.hasOwn(steps, version) ? steps[version] : undefined;
    if (!step) return document;
    now = { ...step(now), formatVersion: version + 1 };
  }
  return now;
}
