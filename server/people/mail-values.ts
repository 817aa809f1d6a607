import type { PortalDefinition } from '../../core/definition/definition';
import type { Person } from '../../core/access/person';
import { columnValue, type MailWords } from '../../core/mail/mail-words';
import { valuesOf } from '../../core/mail/template';
import { isTheirs, organisationOf } from '../../core/people/theirs';
import { plainText } from '../../core/table/plain-text';
import { findColumn, findTable, type Catalogue } from '../../core/table/catalogue';
import { rosterPeople } from '../gate/gate';
import { membershipsOf } from './memberships';
import type { Runner } from '../sources/source';
import type { Member } from '../store/people-models';
import type { MailWordValues } from '../mail/written-mail';

/** Where a definition's rosters are read. */
export interface MailSource {
  runner: Runner;
  catalogue: Catalogue;
  definition: PortalDefinition;
}

/**
 * What mails say of members, by their numbers: name, organisation, e-mail, portal, and the columns of their roster rows
 * that the words ask. What somebody's row doesn't hold is empty.
 */
export async function valuesOfMembers(
  { runner, catalogue, definition }: MailSource,
  words: MailWords,
  members: readonly Pick<Member, 'id' | 'name' | 'email'>[],
): Promise<Map<number, MailWordValues>> {
  const asked = [...new Set([...valuesOf(words.subject), ...valuesOf(words.text)])];
  const columns = asked.flatMap((value) => {
    const column = columnValue(value);
    return column ? [{ value, ...column }] : [];
  });
  const memberships = await membershipsOf(members.map(({ id }) => id));
  const rows = new Map<number, Person['rows']>(members.map(({ id }) => [id, {}]));
  const asksOrganisation = asked.includes('organisation');
  for (const roster of definition.rosters) {
    const isAsked = columns.some(({ table }) => table === roster.table);
    if (!isAsked && !(asksOrganisation && roster.organisation !== undefined)) continue;
    const keys = [...memberships.values()].flat().filter(({ rosterTable }) => rosterTable === roster.table);
    const found = await rosterPeople(
      runner,
      catalogue,
      roster,
      keys.map(({ rowKey }) => rowKey),
    );
    for (const { id, email } of members) {
      const own = memberships.get(id)!.find(({ rosterTable }) => rosterTable === roster.table);
      const row = own && found.get(own.rowKey);
      if (row && isTheirs(roster, catalogue, row, email)) rows.get(id)![roster.table] = row;
    }
  }
  return new Map(
    members.map(({ id, name, email }) => {
      const own = rows.get(id)!;
      const said: Record<string, string> = {
        name,
        email,
        organisation: organisationOf(definition.rosters, own) ?? '',
        portal: definition.portal.name,
      };
      for (const { value, table, column } of columns) {
        const known = findTable(catalogue, table) && findColumn(findTable(catalogue, table)!, column);
        const row = Object.hasOwn(own, table) ? own[table]! : {};
        said[value] = known ? plainText(row[column] ?? null) : '';
      }
      return [id, said];
    }),
  );
}

/** A moment as a mail says it, in the portal's own time. */
export function momentText(moment: Date, { timeZone }: PortalDefinition['portal']): string {
  return new Intl.DateTimeFormat('en-GB', {
    dateStyle: 'long',
    timeStyle: 'short',
    timeZone,
  }).format(moment);
}
