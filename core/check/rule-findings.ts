import { strictestMask } from '../access/lens';
import { columnsUsed, isAlways, isNever } from '../condition/analyse';
import { checkCondition } from '../condition/check';
import type { Condition } from '../condition/tree';
import { dataClassOf, type PortalDefinition } from '../definition/definition';
import { readPath } from '../definition/path';
import { askedByPage, type SectionSpecs } from '../definition/section';
import { rolesOn } from './page-roles';
import { maskAsked } from '../mask/mask';
import { findColumn, findTable, type Catalogue } from '../table/catalogue';
import type { Finding } from './finding';
import { grantedOf, within, type Granted } from './granted';
import { makers, leavesReach, ownMark } from './maker-findings';

/**
 * What can be held against the access rules themselves: mistakes that people make, each told by looking at the rules
 * alone.
 */
export function findRuleFaults(definition: PortalDefinition, catalogue: Catalogue, specs: SectionSpecs): Finding[] {
  const granted = grantedOf(definition, catalogue);
  return [
    ...granted.flatMap(constantFilters),
    ...granted.flatMap(editWiderThanSeen),
    ...granted.flatMap((each) => makers(definition, each)),
    ...granted.flatMap(leavesReach),
    ...granted.flatMap(ownMark),
    ...granted.flatMap((each) => labels(definition, each)),
    ...granted.flatMap((each) => visitors(definition, each)),
    ...granted.flatMap(telling),
    ...granted.flatMap(voided),
    ...missingFences(definition, catalogue, granted),
    ...sortedByMask(definition, catalogue, specs),
  ];
}

function constantFilters({ grant, scope, role, table, place }: Granted): Finding[] {
  const filters: [string, unknown][] = [
    ['see', grant.see?.where],
    ['edit', grant.edit?.where],
    ['delete', grant.delete?.where],
    ['export', grant.export?.where],
  ];
  return filters.flatMap(([what, filter]): Finding[] => {
    if (typeof filter !== 'object' || filter === null || checkCondition(filter as Condition, scope).length > 0)
      return [];
    if (isNever(filter as Condition, scope))
      return [
        {
          id: `never/${table.name}/${role.id}/${what}`,
          kind: 'filter is never true',
          severity: 'broken',
          place: { ...place, what },
          title: `The ${what} filter of ${role.name} on ${table.name} is never true`,
          why: 'No row can satisfy it, whoever asks. It was probably meant otherwise.',
        },
      ];
    if (isAlways(filter as Condition, scope))
      return [
        {
          id: `always/${table.name}/${role.id}/${what}`,
          kind: 'filter is always true',
          severity: 'leak',
          place: { ...place, what },
          title: `The ${what} filter of ${role.name} on ${table.name} is always true`,
          why: 'It looks like a filter and lets everything through. Say every row, or write what is meant.',
        },
      ];
    return [];
  });
}

function editWiderThanSeen({ grant, lens, scope, role, table, place }: Granted): Finding[] {
  if (
    !lens?.edit ||
    !grant.edit ||
    grant.edit.where === 'as seen' ||
    lens.rows === 'no row' ||
    lens.edit.columns.size === 0 ||
    within(lens.edit.rows, lens.rows, scope)
  )
    return [];
  return [
    {
      id: `wider/${table.name}/${role.id}`,
      kind: 'edit wider than see',
      severity: 'broken',
      place,
      title: `${role.name} may edit rows of ${table.name} that they may not see`,
      why:
        "What is not in view can't be edited, so for those rows the right is empty; and whoever reads the rule " +
        'thinks otherwise. Edit what is seen.',
    },
  ];
}

function labels(definition: PortalDefinition, { lens, role, table, place }: Granted): Finding[] {
  const title = definition.tables[table.name]?.titleColumn;
  const openness = title !== undefined && lens && lens.rows !== 'no row' ? lens.columns.get(title) : undefined;
  if (title === undefined || !openness || openness.level !== 'masked') return [];
  return [
    {
      id: `label/${table.name}/${role.id}`,
      kind: 'label is masked',
      severity: 'broken',
      place: { ...place, column: title },
      title: `${table.name} is called by ${title}, which is masked for ${role.name}`,
      why:
        'Where a record is chosen or named, they would read the mask. Choose another column to stand for a ' +
        'record, or except the role.',
    },
  ];
}

const personal = new Set(['contact', 'identity', 'financial', 'health', 'secret']);

function visitors(definition: PortalDefinition, { lens, role, table, place }: Granted): Finding[] {
  if (role.for !== 'visitors' || !lens) return [];
  const found: Finding[] = [];
  if ((lens.edit && lens.edit.columns.size > 0) || lens.remove)
    found.push({
      id: `visitor-writes/${table.name}/${role.id}`,
      kind: 'visitor writes',
      severity: 'leak',
      place,
      title: `Anybody may change or delete records of ${table.name} without signing in`,
      why: 'A visitor is nobody in particular. Let them add at most.',
    });
  for (const [column, openness] of lens.rows === 'no row' ? [] : lens.columns) {
    const dataClass = dataClassOf(definition, table, column);
    if (openness.level === 'shown' && dataClass !== null && personal.has(dataClass))
      found.push({
        id: `visitor-sees/${table.name}/${role.id}/${column}`,
        kind: 'visitor sees personal data',
        severity: 'leak',
        place: { ...place, column },
        title: `Anybody reads ${table.name}.${column}, which is ${dataClass}, without signing in`,
        why: 'Personal data is open to the whole world. Hide the column, or mask it.',
      });
  }
  return found;
}

/** A unique column tells whoever may fill it whether a value is taken, also by records that they don't see. */
function telling({ lens, role, table, place }: Granted): Finding[] {
  const seesAll = lens?.rows !== 'no row' && lens?.rows.length === 0;
  const fills = new Set([...(lens?.create?.columns ?? []), ...(lens?.edit?.columns ?? [])]);
  return table.columns
    .filter((column) => column.unique && !table.key.includes(column.name) && fills.has(column.name) && !seesAll)
    .map((column): Finding => ({
      id: `telling/${table.name}/${role.id}/${column.name}`,
      kind: 'unique column tells',
      severity: 'leak',
      place: { ...place, column: column.name },
      title: `${role.name} can find out which values of ${table.name}.${column.name} are taken`,
      why:
        "Values must be unique, so a refusal tells that somebody else's record has this one. Where that is a " +
        "secret, as with an e-mail, don't let it be filled here.",
    }));
}

function voided({ grant, role, table, place }: Granted): Finding[] {
  const { ceiling } = table;
  if (!ceiling) return [];
  const operations = (['create', 'edit', 'delete', 'export'] as const).filter(
    (operation) => grant[operation] && ceiling[operation] === false,
  );
  const columns = Object.entries(ceiling.columns ?? {})
    .filter(
      ([name, may]) =>
        (may === 'nothing' && grant.see?.columns.includes(name)) ||
        (grant.edit?.columns.includes(name) ?? false) ||
        (grant.create?.columns.includes(name) ?? false),
    )
    .map(([name]) => name);
  if (operations.length + columns.length === 0) return [];
  const what = [...operations.map((operation) => `to ${operation}`), ...columns].join(', ');
  return [
    {
      id: `ceiling/${table.name}/${role.id}`,
      kind: 'ceiling makes it void',
      severity: 'broken',
      place,
      title: `The ceiling of ${table.name} takes away what ${role.name} is granted: ${what}`,
      why:
        'Ceilings stand above every role, so this part of the grant does nothing. Take it out, or have the ' +
        'ceiling lifted at the source.',
    },
  ];
}

/** A column that a fence elsewhere goes by, on a table that is granted without one. */
function missingFences(definition: PortalDefinition, catalogue: Catalogue, granted: Granted[]): Finding[] {
  const fences = definition.fences ?? [];
  return fences.flatMap((fence) => {
    const fenced = findTable(catalogue, fence.table);
    if (!fenced || checkCondition(fence.where, { catalogue, table: fenced, member: true }).length > 0) return [];
    const own = [
      ...new Set(
        columnsUsed(fence.where, { catalogue, table: fenced, member: true })
          .filter((use) => use.table === fence.table)
          .map((use) => use.column),
      ),
    ];
    const bare = [
      ...new Set(
        granted
          .filter(
            ({ role, table }) =>
              !fence.exceptRoles.includes(role.id) && !fences.some((each) => each.table === table.name),
          )
          .map(({ table }) => table),
      ),
    ];
    return bare
      .filter(
        (table) =>
          own.length > 0 &&
          own.every((column) => findColumn(table, column)) &&
          checkCondition(fence.where, { catalogue, table, member: true }).length === 0,
      )
      .map((table): Finding => ({
        id: `unfenced/${table.name}/${fence.id}`,
        kind: 'fence is missing',
        severity: 'leak',
        place: { stage: 'access', table: table.name, what: fence.id },
        title: `${table.name} has ${own.join(', ')} like ${fence.table}, and no fence`,
        why:
          `On ${fence.table} the fence ${fence.id} keeps everyone to their side of it. Here each role's own ` +
          'filter alone does. Fence it the same way.',
      }));
  });
}

function sortedByMask(definition: PortalDefinition, catalogue: Catalogue, specs: SectionSpecs): Finding[] {
  return definition.pages.flatMap((page) =>
    askedByPage(page, definition, specs).flatMap(({ section, asked }) =>
      rolesOn(page, section, definition).flatMap((role) =>
        asked.sorts.flatMap((sorted): Finding[] => {
          const path = readPath(sorted);
          const table = findTable(catalogue, asked.table);
          const mask = table && path?.length === 1 ? strictestMask(definition, table, path[0]!, role) : null;
          if (!mask || maskAsked(mask)) return [];
          return [
            {
              id: `sorted/${page.id}/${role}/${sorted}`,
              kind: 'page sorts by a mask',
              severity: 'broken',
              place: { stage: 'pages', page: page.id },
              title:
                `${page.title} is sorted by ${sorted}, which is masked for ` +
                `${definition.roles.find((each) => each.id === role)?.name ?? role}`,
              why: 'A masked column has no order for them, so the list comes in the order of its key.',
            },
          ];
        }),
      ),
    ),
  );
}
