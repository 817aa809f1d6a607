import { plainText } from '../../core/table/plain-text';
import type { Value } from '../../core/table/value';
import { ServerProblem } from '../../web/client/http';

/** What somebody else changed meanwhile, by column as it is now. */
export function changedMeanwhile(error: unknown): Record<string, Value> {
  if (!(error instanceof ServerProblem) || error.status !== 409) return {};
  return Object.fromEntries(
    Object.entries((error.body.fields ?? {}) as Record<string, unknown>).flatMap(([column, field]) =>
      typeof field === 'object' && field !== null && 'now' in field ? [[column, field.now as Value]] : [],
    ),
  );
}

/** What is said at each place of a form that was refused. */
export function refusedFields(error: unknown): Record<string, string> {
  const changed = changedMeanwhile(error);
  const fields = error instanceof ServerProblem ? ((error.body.fields ?? {}) as Record<string, unknown>) : {};
  return Object.fromEntries(
    Object.entries(fields).map(([column, why]) => [
      column,
      Object.hasOwn(changed, column)
        ? `Somebody changed this meanwhile: it is “${plainText(changed[column]!)}” now. Send it again to put in yours.`
        : String(why),
    ]),
  );
}
