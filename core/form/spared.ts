import { columnsUsed } from '../condition/analyse';
import type { FieldRule } from '../definition/definition';
import { mayStayEmpty } from './field-rules';
import type { Catalogue } from '../table/catalogue';
import type { View } from '../access/view';

/**
 * The columns without which a new record of the person's is kept, whatever else it holds: the table does without them,
 * no rule asks for them, and whether they may make the record is not read of them.
 */
export function sparedColumns(view: View, catalogue: Catalogue, rules: readonly FieldRule[]): Set<string> {
  const { table, lenses } = view;
  const scope = { catalogue, table, member: true };
  const read = new Set(
    lenses.flatMap(({ create }) =>
      !create || create.keepIn === 'no row'
        ? []
        : create.keepIn
            .flatMap(({ where }) => columnsUsed(where, scope))
            .flatMap((use) => (use.table === table.name ? use.column : [])),
    ),
  );
  return new Set(
    table.columns.flatMap((column) => (mayStayEmpty(column, rules) && !read.has(column.name) ? column.name : [])),
  );
}
