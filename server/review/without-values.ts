import type { Explanation, RowsExplanation } from '../../core/access/explain';
import type { Trace } from '../../core/condition/evaluate';

/** An explanation without the values that were compared: for whoever is kept from personal data. */
export function withoutValues(told: Explanation): Explanation {
  const rows = (of: RowsExplanation | null) => of && rowsWithoutValues(of);
  return {
    ...told,
    roles: told.roles.map((role) => ({
      ...role,
      see: rows(role.see),
      edit: rows(role.edit),
      remove: rows(role.remove),
      keepIn: rows(role.keepIn),
      moves: role.moves.map((move) => ({ ...move, where: rowsWithoutValues(move.where) })),
    })),
  };
}

export function rowsWithoutValues({ holds, parts }: RowsExplanation): RowsExplanation {
  return { holds, parts: parts && parts.map((part) => ({ ...part, trace: traceWithoutValues(part.trace) })) };
}

function traceWithoutValues({ values: _values, parts, ...trace }: Trace): Trace {
  return { ...trace, ...(parts ? { parts: parts.map(traceWithoutValues) } : {}) };
}
