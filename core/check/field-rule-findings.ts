import { checkCondition } from '../condition/check';
import type { PortalDefinition } from '../definition/definition';
import { findColumn, findTable, type Catalogue } from '../table/catalogue';
import type { Finding } from './finding';

/** Rules of tables that can't be asked any more: until they are mended nothing is saved there that they are about. */
export function findFieldRules(
  definition: PortalDefinition,
  catalogue: Catalogue,
  isAway: (table: string) => boolean,
): Finding[] {
  return Object.entries(definition.tables).flatMap(([name, { rules = [] }]) => {
    const table = findTable(catalogue, name);
    if (!table || isAway(name)) return [];
    return rules.flatMap(({ id, columns, when }): Finding[] => {
      const gone = columns.find((column) => !findColumn(table, column));
      const problem = when && checkCondition(when, { catalogue, table, member: true })[0]?.reason;
      const reason = gone === undefined ? problem : `there is no ${gone} any more`;
      if (reason === undefined) return [];
      return [
        {
          id: `rule/${name}/${id}`,
          kind: 'field rule does not work',
          severity: 'broken',
          place: { stage: 'access', table: name, what: 'rules' },
          title: `A field rule of ${name} does not work: ${reason}`,
          why: "What it is about can't be saved by anybody until it is mended or removed.",
        },
      ];
    });
  });
}
