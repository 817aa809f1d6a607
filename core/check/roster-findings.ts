import { roleRuleProblem } from '../access/roster-roles';
import type { PortalDefinition } from '../definition/definition';
import { type Catalogue, findTable, isClosed } from '../table/catalogue';
import { counted } from '../text/counted';
import type { Finding, Place } from './finding';
import { roleName } from './filter-findings';

/** What the data says of a roster, counted by the server. */
export interface RosterFacts {
  table: string;
  rows: number;
  withoutEmail: number;
  /** Rows whose e-mail stands in more than one row of this roster. */
  sharedEmail: number;
}

export function findRosters(definition: PortalDefinition, catalogue: Catalogue, facts: RosterFacts[]): Finding[] {
  return definition.rosters.flatMap((roster): Finding[] => {
    const place = (column: string): Place => ({ stage: 'people', table: roster.table, column });
    const table = findTable(catalogue, roster.table);
    const missing = !table
      ? roster.table
      : [roster.name, ...(roster.nameFurther ?? []), roster.email].find(
          (column) => !table.columns.some((c) => c.name === column),
        );
    const closed =
      table &&
      [
        roster.name,
        ...(roster.nameFurther ?? []),
        roster.email,
        ...(roster.organisation ? [roster.organisation] : []),
      ].find((column) => isClosed(table, column));
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
    const unsound = roster.where && roleRuleProblem(roster.where, catalogue, table);
    if (unsound)
      found.push({
        id: `who-counts/${roster.table}`,
        kind: 'roster does not work',
        severity: 'broken',
        place: { stage: 'people', table: roster.table },
        title: `The condition for who counts on ${roster.table} does not work: ${unsound}`,
        why: 'A condition that does not work lets nobody in. Write it anew.',
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
