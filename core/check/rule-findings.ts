import { strictestMask } from '../access/lens';
import type { Rows } from '../access/rows';
import { neededColumns } from '../access/view';
import { columnsUsed, isAlways, isNever } from '../condition/analyse';
import { checkCondition } from '../condition/check';
import { describeOperand } from '../condition/describe';
import type { Condition, Operand } from '../condition/tree';
import { dataClassOf, type PortalDefinition } from '../definition/definition';
import { readPath } from '../definition/path';
import { maskAsked } from '../mask/mask';
import { findColumn, findTable, type Catalogue } from '../table/catalogue';
import { branchesOf } from './branch-findings';
import type { Finding } from './findings';
import { grantedOf, whole, within, type Granted } from './granted';
import type { PeopleFacts } from './people-facts';

/**
 * What can be held against the access rules themselves: mistakes that people make, each told by looking at the rules
 * alone.
 */
export function findRuleFaults(definition: PortalDefinition, catalogue: Catalogue): Finding[] {
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
    ...sortedByMask(definition, catalogue),
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

/**
 * Equalities of a column of the table with a fact of the member that every row of the rule satisfies: whose a record
 * is.
 */
export function ownMarks(rows: Rows): { column: string; fact: Operand }[] {
  if (rows === 'no row') return [];
  const marks = (condition: Condition): { column: string; fact: Operand }[] => {
    if (condition.kind === 'all') return condition.parts.flatMap(marks);
    if (condition.kind !== 'compare' || condition.comparison !== '=') return [];
    const [column, fact] =
      condition.left.kind === 'column' ? [condition.left, condition.right] : [condition.right, condition.left];
    return column.kind === 'column' && column.path.length === 1 && fact.kind === 'member'
      ? [{ column: column.path[0]!, fact }]
      : [];
  };
  return rows.flatMap((part) => marks(part.where));
}

function makers(definition: PortalDefinition, { grant, lens, scope, role, table, place }: Granted): Finding[] {
  if (!lens?.create || !grant.create) return [];
  const found: Finding[] = [];
  const stamped = (column: string) =>
    (definition.stamps ?? []).some(
      (stamp) =>
        stamp.table === table.name &&
        stamp.column === column &&
        stamp.on !== 'change' &&
        (stamp.to === 'everyone' || stamp.to.includes(role.id)),
    );
  const filled = (column: string) =>
    lens.create!.columns.has(column) ||
    stamped(column) ||
    (definition.lifecycles ?? []).some(
      (lifecycle) => lifecycle.table === table.name && lifecycle.column === column && lifecycle.start !== undefined,
    );
  const missing = neededColumns(table).filter((column) => !filled(column));
  if (missing.length > 0)
    found.push({
      id: `needed/${table.name}/${role.id}`,
      kind: 'required column nobody fills',
      severity: 'broken',
      place,
      title: `${role.name} can't make a record of ${table.name}: nobody fills ${missing.join(', ')}`,
      why: 'The database asks for a value and has none of its own. Let the role fill it, or stamp it.',
    });
  const marks = ownMarks(lens.create.keepIn).filter(
    ({ column }) => !filled(column) && !findColumn(table, column)?.automatic,
  );
  for (const { column, fact } of marks)
    found.push({
      id: `unmarked/${table.name}/${role.id}/${column}`,
      kind: 'maker leaves no mark',
      severity: 'broken',
      place: { ...place, column },
      title: `${role.name} can't make a record of ${table.name}: nothing puts ${describeOperand(fact)} into ${column}`,
      why:
        'A new record must satisfy the keep-in rule, and this column stays empty. Stamp it, so that the record ' +
        'carries its maker without anybody typing it.',
    });
  if (
    lens.rows !== 'no row' &&
    missing.length === 0 &&
    marks.length === 0 &&
    !within(lens.create.keepIn, lens.rows, scope)
  ) {
    found.push({
      id: `maker/${table.name}/${role.id}`,
      kind: "maker can't see it",
      severity: 'broken',
      place,
      title: `${role.name} may make records of ${table.name} that they can't see afterwards`,
      why:
        'What a new record must satisfy is wider than what they see, so it vanishes in front of whoever made it, ' +
        "or becomes somebody else's.",
    });
  }
  return found;
}

function leavesReach({ grant, lens, scope, role, table, place }: Granted): Finding[] {
  if (
    !lens?.edit ||
    grant.edit?.keepIn === undefined ||
    lens.edit.columns.size === 0 ||
    within(lens.edit.keepIn, lens.edit.rows, scope)
  )
    return [];
  const where = whole(lens.edit.rows);
  const used =
    where && where !== 'no row'
      ? columnsUsed(where, scope)
          .filter((each) => each.table === table.name)
          .map((each) => each.column)
      : [];
  const by = [...lens.edit.columns].filter((column) => used.includes(column));
  if (by.length === 0) return [];
  return [
    {
      id: `leaves/${table.name}/${role.id}`,
      kind: 'edit moves it out of reach',
      severity: 'leak',
      place,
      title:
        `${role.name} can move a record of ${table.name} out of their reach, or into another's, by changing ` +
        `${by.join(', ')}`,
      why:
        'What must hold after an edit is wider than what may be edited. Use the edit filter itself, unless ' +
        'handing records over is meant.',
    },
  ];
}

function ownMark({ grant, lens, role, table, place }: Granted): Finding[] {
  // Behind an OR it is told with who could take it from whom.
  if (!lens?.edit || (typeof grant.see?.where === 'object' && branchesOf(grant.see.where).length > 1)) return [];
  const marks = new Set(ownMarks(lens.rows).map((mark) => mark.column));
  return [...lens.edit.columns]
    .filter((column) => marks.has(column))
    .map((column): Finding => ({
      id: `mark/${table.name}/${role.id}/${column}`,
      kind: 'own mark can be changed',
      severity: 'leak',
      place: { ...place, column },
      title: `${role.name} may change ${table.name}.${column}, by which their own records are told`,
      why:
        'This column says whose the record is. As long as it is editable, one careless keep-in rule gives ' +
        'records away. Show it, and let nobody change it.',
    }));
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

function sortedByMask(definition: PortalDefinition, catalogue: Catalogue): Finding[] {
  return definition.pages.flatMap((page) =>
    page.sections.flatMap((section) =>
      page.roles.flatMap((role) =>
        section.sort.flatMap((term): Finding[] => {
          const path = readPath(term.column);
          const table = findTable(catalogue, section.table);
          const mask = table && path?.length === 1 ? strictestMask(definition, table, path[0]!, role) : null;
          if (!mask || maskAsked(mask)) return [];
          return [
            {
              id: `sorted/${page.id}/${role}/${term.column}`,
              kind: 'page sorts by a mask',
              severity: 'broken',
              place: { stage: 'pages', page: page.id },
              title:
                `${page.title} is sorted by ${term.column}, which is masked for ` +
                `${definition.roles.find((each) => each.id === role)?.name ?? role}`,
              why: 'A masked column has no order for them, so the list comes in the order of its key.',
            },
          ];
        }),
      ),
    ),
  );
}

/** What the members themselves show of the rules. */
export function findPeopleFaults(definition: PortalDefinition, facts: PeopleFacts): Finding[] {
  const role = (id: string) => definition.roles.find((each) => each.id === id)?.name ?? id;
  const empty = definition.roles.filter(
    (each) => (each.for ?? 'members') === 'members' && (facts.members[each.id] ?? 0) === 0,
  );
  const some = (names: string[], people: number) =>
    names.slice(0, 5).join(', ') + (people > 5 ? ` and ${(people - 5).toLocaleString('en')} more` : '');
  return [
    ...facts.lacking.map((each): Finding => ({
      id: `lacking/${each.table}/${each.role}/${each.fact}`,
      kind: 'members lack a fact',
      severity: 'broken',
      place: { stage: 'access', table: each.table, role: each.role },
      title:
        `${each.people.toLocaleString('en')} ${each.people === 1 ? 'member' : 'members'} of ${role(each.role)} ` +
        `have no ${each.fact}, which a rule on ${each.table} asks`,
      why: each.voids
        ? 'Nothing equals what is missing, so the rule lets nothing through for them: ' +
          `${some(each.names, each.people)}. Fill it in the roster's table.`
        : 'Nothing equals what is missing, so the part of the rule that asks it never holds for them; what the ' +
          `rest lets through they get: ${some(each.names, each.people)}. Fill it in the roster's table.`,
    })),
    ...(facts.twice.people === 0
      ? []
      : [
          {
            id: 'twice',
            kind: 'member on two rosters',
            severity: 'leak',
            place: { stage: 'people' },
            title:
              `${facts.twice.people.toLocaleString('en')} ` +
              `${facts.twice.people === 1 ? 'member stands' : 'members stand'} on more than one roster`,
            why:
              'One e-mail is one person, who has all those roles at once: ' +
              `${some(facts.twice.names, facts.twice.people)}. Look with Seen by whether that is meant.`,
          } satisfies Finding,
        ]),
    ...(facts.roleless.people === 0
      ? []
      : [
          {
            id: 'roleless',
            kind: 'member without role',
            severity: 'broken',
            place: { stage: 'people' },
            title:
              `${facts.roleless.people.toLocaleString('en')} ` +
              `${facts.roleless.people === 1 ? 'member has' : 'members have'} no role`,
            why:
              `They can sign in and see nothing: ${some(facts.roleless.names, facts.roleless.people)}. Their ` +
              'rosters give roles by rule, and no rule holds for their row.',
          } satisfies Finding,
        ]),
    ...empty.map((each): Finding => ({
      id: `empty/${each.id}`,
      kind: 'role without members',
      severity: 'broken',
      place: { stage: 'people' },
      title: `Nobody is ${each.name}`,
      why: 'No roster gives this role to a member, so its rules do nothing. Give it a roster, or remove it.',
    })),
  ];
}
