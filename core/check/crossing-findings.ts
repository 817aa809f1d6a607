import type { PortalDefinition } from '../definition/definition';
import { withCrossings, crossingsFrom } from '../definition/sources';
import { type Catalogue, findTable } from '../table/catalogue';
import type { Finding } from './finding';

/** Relations into other sources that can't be followed. */
export function findCrossings(
  definition: PortalDefinition,
  whole: Catalogue,
  isAway: (table: string) => boolean,
): Finding[] {
  const followed = withCrossings(definition, whole);
  return Object.keys(definition.tables).flatMap((name) =>
    crossingsFrom(definition, name).flatMap((relation): Finding[] => {
      if (
        isAway(name) ||
        isAway(relation.table) ||
        findTable(followed, name)?.relations.some(
          (each) => each.name === relation.name && each.table === relation.table,
        )
      )
        return [];
      return [
        {
          id: `crossing/${name}/${relation.name}`,
          kind: 'relation leads nowhere',
          severity: 'broken',
          place: { stage: 'data', table: name, column: relation.column },
          title: `The relation ${name}.${relation.name} to ${relation.table} can't be followed`,
          why:
            "A column is gone, both hold values of different kinds, or the values there don't tell records " +
            'apart. Nothing is shown through it. Take the relation off, or mend the column.',
        },
      ];
    }),
  );
}
