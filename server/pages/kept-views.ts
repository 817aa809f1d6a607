import { Op } from 'sequelize';
import { readCondition } from '../../core/condition/check';
import { printCondition } from '../../core/condition/print';
import { ConditionError } from '../../core/condition/tokens';
import { seesWhole } from '../../core/access/sees-whole';
import { Problem } from '../../core/refusals/problem';
import { findTable } from '../../core/table/catalogue';
import type { ListSection } from '../../sections/list/spec';
import { at, viewSql, type PlacedVisit } from '../gate/gate';
import type { KeptStanding } from '../store/kept-standing';
import { KeptView } from '../store/kept-view-model';

/** How a list stands, as its address says it. */
export interface ListStanding {
  view: string;
  columns: string;
  search: string;
  filter: string;
  sort: string;
}

/** A kept view as somebody gets it. */
export interface KeptViewTold {
  id: number;
  name: string;
  /** Whether it is their own. */
  mine: boolean;
  /** With whom it is shared, where it is their own. */
  roles: string[];
  /** How the list stands in it; null where it doesn't open for them. */
  standing: ListStanding | null;
}

/** Where a view is kept. */
export interface ViewPlace {
  portalId: number;
  page: string;
  section: ListSection;
}

const mostKept = 50;

function asKept(visit: PlacedVisit, { table: name }: ListSection, standing: ListStanding): KeptStanding {
  const { view, search, columns, sort, filter } = standing;
  const catalogue = viewSql(visit).askCatalogue();
  const table = findTable(catalogue, name);
  if (!table) throw new Problem(404, 'not-found', 'There is no such list.');
  try {
    return {
      view,
      search,
      columns: columns === '' ? [] : columns.split(','),
      sort: sort === '' ? [] : sort.split(',').map(termOf),
      filter: filter.trim() === '' ? null : readCondition(filter, { catalogue, table, member: false }),
    };
  } catch (error) {
    if (!(error instanceof ConditionError)) throw error;
    throw new Problem(400, 'bad-question', `The view can't be kept: ${error.message}.`);
  }
}

const termOf = (term: string) => ({ column: term.replace(/^-/, ''), descending: term.startsWith('-') });

const asStanding = ({ view, search, columns, sort, filter }: KeptStanding): ListStanding => ({
  view,
  search,
  columns: columns.join(','),
  sort: sort.map(({ column, descending }) => `${descending ? '-' : ''}${column}`).join(','),
  filter: filter === null ? '' : printCondition(filter),
});

/** Whether a view tells somebody with these roles nothing that they don't see anyway. */
function isOpenTo(visit: PlacedVisit, section: ListSection, { filter }: KeptStanding, roles: string[]): boolean {
  const table = findTable(visit.catalogue, section.table);
  if (!table) return false;
  const person = { ...visit.person, roles };
  return filter === null || seesWhole(visit.definition, visit.catalogue, table, filter, person);
}

/** Their own views of a list and those that are shared with them, by name. */
export async function viewsOf(visit: PlacedVisit, place: ViewPlace): Promise<KeptViewTold[]> {
  const { portalId, page, section } = place;
  const found = await KeptView.findAll({
    where: {
      portalId,
      page,
      section: section.id,
      [Op.or]: [{ memberId: visit.person.id! }, { roles: { [Op.ne]: null } }],
    },
    order: [
      ['name', 'ASC'],
      ['id', 'ASC'],
    ],
    limit: 500,
  });
  const there = await at(visit, section.table);
  return found.flatMap((kept): KeptViewTold[] => {
    const mine = Number(kept.memberId) === visit.person.id;
    const roles = kept.roles === null ? [] : (JSON.parse(kept.roles) as string[]);
    // Where the builder lets nobody share any more, what was shared is its owner's alone.
    const isShared = section.shares !== undefined && roles.some((role) => visit.person.roles.includes(role));
    if (!mine && !isShared) return [];
    const standing = JSON.parse(kept.standing) as KeptStanding;
    // Whoever wrote it knows its constants; for every other they must be plain to see, now.
    const opens = mine || isOpenTo(there, section, standing, visit.person.roles);
    return [
      {
        id: kept.id,
        name: kept.name,
        mine,
        roles: mine ? roles : [],
        standing: opens ? asStanding(standing) : null,
      },
    ];
  });
}

/** Keeps a view under a name; one that is given is written over. Throws where it can't be kept or shared so. */
export async function keepView(
  visit: PlacedVisit,
  place: ViewPlace,
  { name, roles, standing }: { name: string; roles: string[]; standing: ListStanding },
  receivers: string[],
  id: number | null,
): Promise<number> {
  const { portalId, page, section } = place;
  const there = await at(visit, section.table);
  const kept = asKept(there, section, standing);
  if (roles.length > 0) refuseSharing(there, section, kept, roles, receivers);
  const values = {
    name,
    roles: roles.length > 0 ? JSON.stringify(roles) : null,
    standing: JSON.stringify(kept),
  };
  const own = { portalId, memberId: visit.person.id!, page, section: section.id };
  if (id !== null) {
    await KeptView.update(values, { where: { ...own, id } });
    return id;
  }
  if ((await KeptView.count({ where: own })) >= mostKept)
    throw new Problem(409, 'too-many', `${mostKept} views of this list are kept already. Take one out first.`);
  const made = await KeptView.create({ ...own, ...values, tableName: section.table });
  return made.id;
}

function refuseSharing(
  visit: PlacedVisit,
  section: ListSection,
  kept: KeptStanding,
  roles: string[],
  receivers: string[],
): void {
  if (!section.shares?.some((role) => visit.person.roles.includes(role)))
    throw new Problem(403, 'forbidden', 'You may keep views of this list, and not share them.');
  const called = (id: string) => visit.definition.roles.find((role) => role.id === id)?.name ?? 'that role';
  const stranger = roles.find((role) => !receivers.includes(role));
  if (stranger !== undefined)
    throw new Problem(422, 'invalid-values', `${called(stranger)} doesn't get this list.`, {
      fields: { roles: `${called(stranger)} doesn't get this list.` },
    });
  const fault =
    kept.search !== ''
      ? 'What is looked for is not shared. Clear the search, or filter by a column.'
      : roles
          .filter((role) => !isOpenTo(visit, section, kept, [role]))
          .map(
            (role) => `The filter asks a column that ${called(role)} doesn't see whole, and would tell them of it.`,
          )[0];
  if (fault !== undefined) throw new Problem(422, 'invalid-values', fault, { fields: { roles: fault } });
}

/** Takes out a view of theirs; false where there is none. */
export async function dropView(
  visit: PlacedVisit,
  { portalId, page, section }: ViewPlace,
  id: number,
): Promise<boolean> {
  const own = { portalId, memberId: visit.person.id!, page, section: section.id, id };
  return (await KeptView.destroy({ where: own })) > 0;
}
