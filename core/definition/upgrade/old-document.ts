/** A document as it was written, of whatever format: nothing of it is sure. */
export type OldDocument = { [part: string]: unknown };
