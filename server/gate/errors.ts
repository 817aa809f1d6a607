import type { Value } from '../../core/table/value';
import type { Outcome } from './several';

/** The answers of the gate that are not records. Their texts are for people and tell nothing that the view doesn't. */

/** No such table, record or page for this person; the same whether it exists or not. */
export class NotFound extends Error {
  constructor(what = 'record') {
    super(`There is no such ${what}, or it isn't open to you.`);
  }
}

/** The question can't be answered as asked: an unknown column in a filter, a broken cursor. */
export class BadQuestion extends Error {}

/** Values that can't be saved, by column. */
export class InvalidValues extends Error {
  constructor(readonly fields: Record<string, string>) {
    super("Some values can't be saved.");
  }
}

/** The person may not do this to a record that they see. */
export class Refused extends Error {
  constructor(
    reason: string,
    readonly fields: Record<string, string> = {},
  ) {
    super(reason);
  }
}

/** Another person has changed the record in between: for each column what it held, holds and would hold. */
export class Conflict extends Error {
  constructor(readonly fields: Record<string, { was: Value; now: Value; yours: Value }>) {
    super('Someone else has changed this record in the meantime.');
  }
}

/** Of several writes that were to be done all or not at all, at least one was refused, so none was done. */
export class SomeRefused extends Error {
  constructor(readonly outcomes: Outcome[]) {
    super(
      `${outcomes.filter((outcome) => !outcome.done).length} of ${outcomes.length} can't be saved, so nothing was.`,
    );
  }
}
