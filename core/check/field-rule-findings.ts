import { lensOf } from '../access/lens';
import { columnsUsed } from '../condition/analyse';
import { checkCondition } from '../condition/check';
import type { FieldRule, PortalDefinition } from '../definition/definition';
import { findColumn, findTable, type Catalogue, type Table } from '../table/catalogue';
import type { Finding } from './finding';
import type { Granted } from './granted';

/** What is wrong with rules of tables: they can't be asked any more, or tell of what somebody doesn't see. */
export function findFieldRules(
  definition: PortalDefinition,
  catalogue: Catalogue,
  granted: readonly Granted[],
  isAway: (table: string) => boolean,
): Finding[] {
  return Object.entries(definition.tables).flatMap(([name, { rules = [] }]) => {
    const table = findTable(catalogue, name);
    if (!table || isAway(name)) return [];
    return rules.flatMap((rule): Finding[] => {
      const broken = broke(catalogue, table, rule);
      if (broken) return [broken];
      return granted.flatMap((each) => (each.table === table ? tells(definition, catalogue, each, rule) : []));
    });
  });
}

/** Until it is mended nothing is saved there that it is about. */
function broke(catalogue: Catalogue, table: Table, { id, columns, when }: FieldRule): Finding | null {
  const gone = columns.find((column) => !findColumn(table, column));
  const problem = when && checkCondition(when, { catalogue, table, member: true })[0]?.reason;
  const reason = gone === undefined ? problem : `there is no ${gone} any more`;
  if (reason === undefined) return null;
  return {
    id: `rule/${table.name}/${id}`,
    kind: 'field rule does not work',
    severity: 'broken',
    place: { stage: 'access', table: table.name, fieldRule: `${table.name}/${id}` },
    title: `A field rule of ${table.name} does not work: ${reason}`,
    why: "What it is about can't be saved by anybody until it is mended or removed.",
  };
}

/**
 * Whoever may write what a rule is about learns from being refused, or not, what its condition goes by. The own columns
 * of a new record hold nothing of anybody's yet.
 */
function tells(
  definition: PortalDefinition,
  catalogue: Catalogue,
  { table, role, lens, scope, place }: Granted,
  { id, columns, when }: FieldRule,
): Finding[] {
  if (!when || !lens) return [];
  const used = columnsUsed(when, scope);
  const own = [...columns, ...used.filter((each) => each.table === table.name).map(({ column }) => column)];
  const isChanged = own.some((column) => lens.edit?.columns.has(column));
  if (!isChanged && !lens.create) return [];
  const unseen = used.find(({ table: name, column }) => {
    const at = name === table.name ? table : findTable(catalogue, name)!;
    if (at === table && !isChanged) return false;
    // Which records go together is not what they hold.
    if (at !== table && at.key.includes(column)) return false;
    const there = at === table ? lens : lensOf(definition, catalogue, at, role.id);
    return there?.columns.get(column)?.level !== 'shown';
  });
  if (!unseen) return [];
  return [
    {
      id: `rule-tells/${table.name}/${id}/${role.id}`,
      kind: 'field rule tells',
      severity: 'leak',
      place: { ...place, fieldRule: `${table.name}/${id}` },
      title: `A field rule of ${table.name} tells ${role.name} of ${unseen.table}.${unseen.column}`,
      why: "They don't see that value, and whether they are refused depends on it. Let it go by what they see.",
    },
  ];
}
