import { counted } from '../../core/text/counted';
import { lensOf } from '../access/lens';
import { roleRuleProblem } from '../access/roster-roles';
import { checkCondition } from '../condition/check';
import type { PortalDefinition, RowFilter } from '../definition/definition';
import { findPages } from './page-findings';
import { crossingsFrom, sourceName, withCrossings } from '../definition/sources';
import { maskLabel } from '../mask/mask';
import { findBranchFaults } from './branch-findings';
import { findWrittenRights } from './deciding-columns';
import { findEmptyFaults, type DataFacts } from './empty-findings';
import { findGrantFaults } from './grant-findings';
import { grantedOf } from './granted';
import type { PeopleFacts } from './people-facts';
import { findPeopleFaults, findRuleFaults } from './rule-findings';
import { findTable, isClosed, type Catalogue } from '../table/catalogue';

/** Where the builder mends a finding. */
export interface Place {
  stage: 'data' | 'people' | 'access' | 'pages';
  table?: string;
  role?: string;
  column?: string;
  page?: string;
  /** The operation, or the rule, that is meant. */
  what?: string;
}

/** Something that the automatic check of a portal holds against it. */
export interface Finding {
  id: string;
  kind: FindingKind;
  /** `leak`: someone may see or do too much. `broken`: someone can't do what is meant. `slow`: it works, at a price. */
  severity: 'leak' | 'broken' | 'slow';
  title: string;
  why: string;
  place: Place;
}

export type FindingKind =
  | 'relation leads nowhere'
  | 'everyone reads everything'
  | 'no e-mail'
  | 'e-mail used twice'
  | 'masked but editable'
  | 'filter does not work'
  | 'page shows nothing'
  | 'roster does not work'
  | 'filter is never true'
  | 'filter is always true'
  | 'edit wider than see'
  | 'required column nobody fills'
  | 'maker leaves no mark'
  | "maker can't see it"
  | 'edit moves it out of reach'
  | 'own mark can be changed'
  | 'label is masked'
  | 'visitor writes'
  | 'visitor sees personal data'
  | 'unique column tells'
  | 'ceiling makes it void'
  | 'fence is missing'
  | 'page sorts by a mask'
  | 'members lack a fact'
  | 'member on two rosters'
  | 'member without role'
  | 'role rule does not work'
  | 'rights can be written'
  | 'role without members'
  | 'filter column without index'
  | 'branch without the member'
  | 'another number'
  | 'export wider than see'
  | 'rows without columns'
  | 'columns without rows'
  | 'mask on the address'
  | 'mask with exceptions'
  | 'narrow beside wide'
  | 'empty values fall out'
  | 'nobody gets a row'
  | 'key does not tell apart'
  | 'key is not seen'
  | 'page column nobody sees'
  | 'source away';

/** What the data says of a roster, counted by the server. */
export interface RosterFacts {
  table: string;
  rows: number;
  withoutEmail: number;
  /** Rows whose e-mail stands in more than one row of this roster. */
  sharedEmail: number;
}

/** Checks the definition against the catalogue and what is known of the rosters' data. */
export function findFaults(
  definition: PortalDefinition,
  catalogue: Catalogue,
  rosters: RosterFacts[],
  people: PeopleFacts | null = null,
  unindexed: readonly { table: string; column: string }[] = [],
  data: DataFacts | null = null,
): Finding[] {
  const granted = grantedOf(definition, catalogue);
  // Of the tables of a source that can't be reached nothing is known, so nothing is said of them.
  const away = data?.away ?? [];
  const isAway = (table: string) => away.some(({ name }) => name === sourceName(definition, table));
  return [
    ...away.map(({ name, reason }): Finding => ({
      id: `away/${name}`,
      kind: 'source away',
      severity: 'broken',
      place: { stage: 'data' },
      title: `The source ${name} can't be reached`,
      why:
        'Nothing of its tables is shown to anybody while that lasts, and pages say so in the place of their ' +
        `values; the check says nothing of them. ${reason}`,
    })),
    ...findFilters(definition, catalogue, isAway),
    ...findOpenTables(definition, catalogue),
    ...findMaskedEdits(definition, catalogue),
    ...findRosters(definition, catalogue, rosters),
    ...findPages(definition, catalogue, isAway),
    ...findCrossings(definition, catalogue, isAway),
    ...findRuleFaults(definition, catalogue),
    ...findBranchFaults(definition, catalogue, granted),
    ...findGrantFaults(definition, catalogue, granted, people),
    ...(data ? findEmptyFaults(granted, data) : []),
    ...findWrittenRights(definition, catalogue),
    ...(people ? findPeopleFaults(definition, people) : []),
    ...unindexed.map(({ table, column }): Finding => ({
      id: `index/${table}/${column}`,
      kind: 'filter column without index',
      severity: 'slow',
      place: { stage: 'data', table, column },
      title: `Rules or pages ask by ${table}.${column}, which has no index`,
      why: "On a large table the database then reads every row. The table's columns offer to make one.",
    })),
  ];
}

const roleName = (definition: PortalDefinition, id: string): string =>
  definition.roles.find((role) => role.id === id)?.name ?? id;

function grantsOf(definition: PortalDefinition) {
  return Object.entries(definition.access).flatMap(([table, roles]) =>
    Object.entries(roles).map(([role, grant]) => ({ table, role, grant })),
  );
}

function findFilters(
  definition: PortalDefinition,
  catalogue: Catalogue,
  isAway: (table: string) => boolean,
): Finding[] {
  return grantsOf(definition)
    .filter(({ table }) => !isAway(table))
    .flatMap(({ table: name, role, grant }) => {
      const table = findTable(catalogue, name);
      const place: Place = { stage: 'access', table: name, role };
      if (!table) {
        return [
          {
            id: `gone/${name}/${role}`,
            kind: 'filter does not work',
            severity: 'broken',
            place,
            title: `${roleName(definition, role)} is granted ${name}, which the database no longer has`,
            why: 'Nobody gets anything from a table that is gone. Take the grant away, or bring the table back.',
          } satisfies Finding,
        ];
      }
      const own = (filter: RowFilter | 'as seen' | undefined): RowFilter | undefined =>
        filter === 'as seen' ? undefined : filter;
      const filters: [string, RowFilter | undefined][] = [
        ['see', grant.see?.where],
        ['edit', own(grant.edit?.where)],
        ['keep-in', grant.edit?.keepIn],
        ['create', grant.create?.keepIn],
        ['delete', own(grant.delete?.where)],
        ['export', own(grant.export?.where)],
      ];
      return filters.flatMap(([what, filter]) => {
        if (!filter || filter === 'every row') return [];
        return checkCondition(filter, { catalogue, table, member: true })
          .slice(0, 1)
          .map((problem): Finding => ({
            id: `filter/${name}/${role}/${what}`,
            kind: 'filter does not work',
            severity: 'broken',
            place,
            title: `The ${what} filter of ${roleName(definition, role)} on ${name} does not work: ${problem.reason}`,
            why: "A filter that can't be answered lets nobody in. Mend the condition.",
          }));
      });
    });
}

function findOpenTables(definition: PortalDefinition, catalogue: Catalogue): Finding[] {
  return grantsOf(definition).flatMap(({ table, role, grant }): Finding[] => {
    if (grant.see?.where !== 'every row' || !findTable(catalogue, table)) return [];
    return [
      {
        id: `open/${table}/${role}`,
        kind: 'everyone reads everything',
        severity: 'leak',
        place: { stage: 'access', table, role },
        title: `${roleName(definition, role)} reads every row of ${table}`,
        why:
          `There is no row filter, so each ${roleName(definition, role)} sees all records, also those of others. ` +
          'Add a filter unless the table is meant for all.',
      },
    ];
  });
}

function findMaskedEdits(definition: PortalDefinition, catalogue: Catalogue): Finding[] {
  return grantsOf(definition).flatMap(({ table: name, role }) => {
    const table = findTable(catalogue, name);
    const lens = table && lensOf(definition, catalogue, table, role);
    if (!lens?.edit) return [];
    return [...lens.edit.columns].flatMap((column): Finding[] => {
      const openness = lens.columns.get(column);
      if (openness?.level !== 'masked' || lens.edit!.unseen.has(column)) return [];
      return [
        {
          id: `masked-edit/${name}/${role}/${column}`,
          kind: 'masked but editable',
          severity: 'broken',
          place: { stage: 'access', table: name, role, column },
          title:
            `${roleName(definition, role)} may edit ${name}.${column}, which is masked for them ` +
            `(${maskLabel(openness.mask)})`,
          why:
            "A masked cell can't be edited: the person would write over what they can't see. Take the column " +
            'from the edit grant, or except the role from the mask.',
        },
      ];
    });
  });
}

function findRosters(definition: PortalDefinition, catalogue: Catalogue, facts: RosterFacts[]): Finding[] {
  return definition.rosters.flatMap((roster): Finding[] => {
    const place = (column: string): Place => ({ stage: 'people', table: roster.table, column });
    const table = findTable(catalogue, roster.table);
    const missing = !table
      ? roster.table
      : [roster.name, roster.email].find((column) => !table.columns.some((c) => c.name === column));
    const closed =
      table &&
      [roster.name, roster.email, ...(roster.organisation ? [roster.organisation] : [])].find((column) =>
        isClosed(table, column),
      );
    if (closed !== undefined) {
      return [
        {
          id: `roster/${roster.table}`,
          kind: 'roster does not work',
          severity: 'broken',
          place: place(closed),
          title: `The roster ${roster.table} can't be read: the ceiling lets nobody read ${closed}`,
          why:
            'What nobody may read is not read for members either. Choose another column, or have the ceiling ' +
            'lifted at the source.',
        },
      ];
    }
    if (missing !== undefined || table?.key.length !== 1) {
      return [
        {
          id: `roster/${roster.table}`,
          kind: 'roster does not work',
          severity: 'broken',
          place: place(roster.email),
          title:
            `The roster ${roster.table} can't be ` +
            `read${missing ? `: there is no ${missing}` : ': it needs a primary key of one column'}`,
          why: 'Nobody becomes a member through it. Choose its columns again.',
        },
      ];
    }
    const tally = facts.find((each) => each.table === roster.table);
    const found = (roster.roles ?? []).flatMap((rule): Finding[] => {
      const problem = roleRuleProblem(rule.where, catalogue, table);
      return problem === null
        ? []
        : [
            {
              id: `role-rule/${roster.table}/${rule.role}`,
              kind: 'role rule does not work',
              severity: 'broken',
              place: { stage: 'people', table: roster.table, role: rule.role },
              title:
                `The rule that makes members from ${roster.table} ${roleName(definition, rule.role)} does not ` +
                `work: ${problem}`,
              why: 'A rule that does not work gives the role to nobody. Write it anew.',
            },
          ];
    });
    if (tally?.withoutEmail) {
      found.push({
        id: `no-email/${roster.table}`,
        kind: 'no e-mail',
        severity: 'broken',
        place: place(roster.email),
        title:
          `${tally.withoutEmail.toLocaleString('en')} of ${counted(tally.rows, 'row', 'rows', 'en')} of ` +
          `${roster.table} ${tally.withoutEmail === 1 ? 'has' : 'have'} no e-mail`,
        why: "Whoever has no e-mail can't sign in and is not a member. Fill it in the table, then refresh.",
      });
    }
    if (tally?.sharedEmail) {
      found.push({
        id: `shared-email/${roster.table}`,
        kind: 'e-mail used twice',
        severity: 'leak',
        place: place(roster.email),
        title:
          `${counted(tally.sharedEmail, 'row', 'rows', 'en')} of ${roster.table} share their e-mail with another ` +
          'row',
        why:
          'One e-mail is one person, and it would be open whose records they get. None of these rows is a member ' +
          'until each e-mail stands once. Where several rows of one person are meant, a query with one row a ' +
          'person can be the roster.',
      });
    }
    return found;
  });
}

/** Relations into other sources that can't be followed. */
function findCrossings(definition: PortalDefinition, whole: Catalogue, isAway: (table: string) => boolean): Finding[] {
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
