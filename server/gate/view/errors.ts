import { Problem } from '../../../core/refusals/problem';
import type { Value } from '../../../core/table/value';
import { sayOutcome, type Outcome } from './outcome';

/** The answers of the gate that are not records. Their texts are for people and tell nothing that the view doesn't. */

/** No such table, record or page for this person; the same whether it exists or not. */
export class NotFound extends Problem {
  constructor(what = 'record') {
    super(404, 'not-found', `There is no such ${what}, or it isn't open to you.`);
  }
}

/** The question can't be answered as asked: an unknown column in a filter, a broken cursor. */
export class BadQuestion extends Problem {
  constructor(reason: string) {
    super(400, 'bad-question', reason);
  }
}

/** Values that can't be saved, by column. */
export class InvalidValues extends Problem {
  constructor(readonly fields: Record<string, string>) {
    super(422, 'invalid-values', "Some values can't be saved.", { fields });
  }
}

/** The person may not do this to a record that they see. */
export class Refused extends Problem {
  constructor(
    reason: string,
    readonly fields: Record<string, string> = {},
  ) {
    super(403, 'refused', reason, { fields });
  }
}

/** Another person has changed the record in between: for each column what it held, holds and would hold. */
export class Conflict extends Problem {
  constructor(readonly fields: Record<string, { was: Value; now: Value; yours: Value }>) {
    super(409, 'conflict', 'Someone else has changed this record in the meantime.', { fields });
  }
}

/** Of several writes that were to be done all or not at all, at least one was refused, so none was done. */
export class SomeRefused extends Problem {
  /** `told` of the outcomes are told; all of them where nothing is said. */
  constructor(
    readonly outcomes: Outcome[],
    told: readonly Outcome[] = outcomes,
  ) {
    super(
      422,
      'some-refused',
      `${outcomes.filter((outcome) => !outcome.done).length} of ${outcomes.length} can't be saved, so nothing was.`,
      { outcomes: told.map(sayOutcome) },
    );
  }
}
