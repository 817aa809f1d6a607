import type { Finding } from './finding';
import type { Granted } from './granted';

/** What a cluster of several databases asks of tables, of those that some role may do something with. */
export function findClusterFaults(granted: readonly Granted[]): Finding[] {
  const tables = [...new Map(granted.map(({ table }) => [table.name, table])).values()];
  const keyless = tables.filter(({ inCluster }) => inCluster === 'without a key');
  const counted = granted.filter(
    ({ grant, table }) =>
      table.inCluster !== undefined &&
      table.columns.some(({ name, automatic, type }) => automatic && type === 'whole number' && sees(grant, name)),
  );
  const names = [...new Set(counted.map(({ table }) => table.name))];
  return [
    ...keyless.map(({ name }): Finding => ({
      id: `cluster-key/${name}`,
      kind: 'cluster without a key',
      severity: 'broken',
      place: { stage: 'data', table: name },
      title: `${name} has no primary key, and lies in a cluster`,
      why:
        'The databases of a cluster tell rows apart by it: without one records can’t be deleted there, and stand ' +
        'in another order at each. Give it one in the database.',
    })),
    ...(names.length === 0
      ? []
      : [
          {
            id: 'cluster-numbers',
            kind: 'numbers with gaps',
            severity: 'slow',
            place: { stage: 'data', table: names[0]! },
            title: 'Numbers that the database gives to records have gaps',
            why:
              `${names.join(', ')} lie in a cluster, in which each database counts in steps of its own. Where ` +
              'numbers must follow one another, as those of invoices, let something else give them.',
          } satisfies Finding,
        ]),
  ];
}

const sees = ({ see }: Granted['grant'], column: string): boolean => see?.columns.includes(column) ?? false;
