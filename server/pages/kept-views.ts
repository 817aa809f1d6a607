import { Op, type Order } from 'sequelize';
import { checkCondition } from '../../core/condition/check';
import { parseCondition } from '../../core/condition/parse';
import { printCondition } from '../../core/condition/print';
import { oneOf, type Person } from '../../core/access/person';
import { seesWhole } from '../../core/access/sees-whole';
import { Problem } from '../../core/refusals/problem';
import { findTable } from '../../core/table/catalogue';
import type { ListSection } from '../../sections/list/spec';
import { columnsDrawn, drawnText, readDrawn, type DrawnBy } from '../../sections/chart/drawn-by';
import { serveOf } from '../../sections/serves';
import { tabAt, tabsFor } from '../../sections/list/tab';
import { columnInfos } from '../columns/column-info';
import { normaliseEmail } from '../../core/text/email';
import { at, BadQuestion, NotFound, viewSql, type PlacedVisit } from '../gate/gate';
import type { KeptStanding } from '../store/kept-standing';
import { KeptView } from '../store/kept-view-model';

/** How a list stands, as its address says it. */
export interface ListStanding {
  view: string;
  columns: string;
  search: string;
  filter: string;
  sort: string;
  /** What it is drawn by, as the address says it; empty where it isn't. */
  chart: string;
}

/** A kept view as somebody gets it. */
export interface KeptViewTold {
  id: number;
  name: string;
  /** Whether it is their own. */
  mine: boolean;
  /** With whom it is shared, roles and addresses, where it is their own. */
  roles: string[];
  people: string[];
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
const mostShared = 200;

/** What is kept of how a list stands. The list is asked so first: it refuses what it can't be asked. */
async function asKept(visit: PlacedVisit, section: ListSection, standing: ListStanding): Promise<KeptStanding> {
  const { view, search, columns, sort, filter, chart } = standing;
  await serveOf(section).list!(visit, section, { view, search, columns, sort, filter, size: 1 });
  const drawn = chart === '' ? null : readDrawn(chart);
  if (chart !== '') await refuseDrawing(visit, section, drawn);
  return {
    // By its name also where it is the one that they begin with: others may begin with another.
    view: tabAt(visit, section, view)?.id ?? '',
    search,
    columns: columns === '' ? [] : [...new Set(columns.split(','))],
    sort: sort === '' ? [] : [...new Set(sort.split(','))].slice(0, 5).map(termOf),
    filter: filter.trim() === '' ? null : parseCondition(filter).condition,
    ...(drawn ? { chart: drawn } : {}),
  };
}

/** A chart of columns that they don't see can't be kept. */
async function refuseDrawing(visit: PlacedVisit, section: ListSection, drawn: DrawnBy | null): Promise<void> {
  const named = drawn ? columnsDrawn(drawn) : [];
  const seen = await columnInfos(await at(visit, section.table), section.table, named);
  if (!drawn || named.some((column) => !seen.some(({ path }) => path === column)))
    throw new BadQuestion('This list is not drawn so. Choose what it is drawn by anew.');
}

const termOf = (term: string) => ({ column: term.replace(/^-/, ''), descending: term.startsWith('-') });

/** As it is told to somebody: without columns that they don't see, whose very names would tell. */
async function asStanding(
  visit: PlacedVisit,
  section: ListSection,
  { view, search, columns, sort, filter, chart }: KeptStanding,
): Promise<ListStanding> {
  const drawn = chart ? columnsDrawn(chart) : [];
  const named = [...new Set([...columns, ...sort.map(({ column }) => column), ...drawn])];
  const seen = new Set((await columnInfos(visit, section.table, named)).map(({ path }) => path));
  return {
    view: view === tabAt(visit, section, '')?.id ? '' : view,
    search,
    columns: columns.filter((column) => seen.has(column)).join(','),
    sort: sort
      .filter(({ column }) => seen.has(column))
      .map(({ column, descending }) => `${descending ? '-' : ''}${column}`)
      .join(','),
    filter: filter === null ? '' : printCondition(filter),
    chart: chart && drawn.every((column) => seen.has(column)) ? drawnText(chart) : '',
  };
}

/** Whether the filter of a view tells somebody nothing that they don't see anyway. */
function isPlainTo(visit: PlacedVisit, section: ListSection, { filter }: KeptStanding, person: Person): boolean {
  const table = findTable(visit.catalogue, section.table);
  return (
    table !== undefined && (filter === null || seesWhole(visit.definition, visit.catalogue, table, filter, person))
  );
}

/** Whether what the filter compares with, of whoever looks, is there and theirs to see. */
function isAskedBy(visit: PlacedVisit, section: ListSection, { filter }: KeptStanding): boolean {
  const table = findTable(visit.catalogue, section.table);
  return (
    table !== undefined && (filter === null || checkCondition(filter, viewSql(visit).filterScope(table)).length === 0)
  );
}

/** Their own views of a list and those that are shared with them, by name. */
export async function viewsOf(visit: PlacedVisit, place: ViewPlace): Promise<KeptViewTold[]> {
  const { portalId, page, section } = place;
  // A list that has an older one's name, and is of another table, has none of its views.
  const here = { portalId, page, section: section.id, tableName: section.table };
  const [withRoles, withPeople] = [{ roles: { [Op.ne]: null } }, { people: { [Op.ne]: null } }];
  const order: Order = [
    ['name', 'ASC'],
    ['id', 'ASC'],
  ];
  const mine = await KeptView.findAll({ where: { ...here, memberId: visit.person.id! }, order });
  // Where the builder lets nobody share any more, what was shared is its owner's alone.
  const others =
    section.shares === undefined
      ? []
      : await KeptView.findAll({
          where: { ...here, memberId: { [Op.ne]: visit.person.id! }, [Op.or]: [withRoles, withPeople] },
          order,
          limit: mostShared,
        });
  const there = await at(visit, section.table);
  const tabs = tabsFor(visit, section).map(({ id }) => id);
  const told = async (kept: KeptView, isMine: boolean): Promise<KeptViewTold> => {
    const standing = JSON.parse(kept.standing) as KeptStanding;
    // Without its tab it would hold more. Whoever wrote it knows its constants; for every other they must be plain.
    const opens =
      (standing.view === '' || tabs.includes(standing.view)) &&
      (isMine || (isPlainTo(there, section, standing, visit.person) && isAskedBy(there, section, standing)));
    return {
      id: kept.id,
      name: kept.name,
      mine: isMine,
      roles: isMine ? rolesOf(kept) : [],
      people: isMine ? peopleOf(kept) : [],
      standing: opens ? await asStanding(there, section, standing) : null,
    };
  };
  const email = visit.person.email === null ? null : normaliseEmail(visit.person.email);
  const theirs = others.filter(
    (kept) =>
      rolesOf(kept).some((role) => visit.person.roles.includes(role)) ||
      (email !== null && peopleOf(kept).includes(email)),
  );
  return Promise.all([...mine.map((kept) => told(kept, true)), ...theirs.map((kept) => told(kept, false))]);
}

const peopleOf = ({ people }: KeptView): string[] => (people === null ? [] : (JSON.parse(people) as string[]));
const rolesOf = ({ roles }: KeptView): string[] => (roles === null ? [] : (JSON.parse(roles) as string[]));

/**
 * Keeps a view under a name; one of theirs that is given is written over. Throws where it can't be kept or shared so,
 * or there is none to write over.
 */
export async function keepView(
  visit: PlacedVisit,
  place: ViewPlace,
  { name, roles, people, standing }: { name: string; roles: string[]; people: string[]; standing: ListStanding },
  receivers: string[],
  id: number | null,
): Promise<number> {
  const { portalId, page, section } = place;
  const own = { portalId, memberId: visit.person.id!, page, section: section.id, tableName: section.table };
  if (id !== null && (await KeptView.count({ where: { ...own, id } })) === 0) throw new NotFound('view');
  const kept = await asKept(visit, section, standing);
  if (roles.length + people.length > 0) refuseSharing(await at(visit, section.table), section, kept, roles, receivers);
  const values = {
    name,
    roles: roles.length > 0 ? JSON.stringify(roles) : null,
    people: people.length > 0 ? JSON.stringify([...new Set(people.map(normaliseEmail))]) : null,
    standing: JSON.stringify(kept),
  };
  if (id !== null) {
    await KeptView.update(values, { where: { ...own, id } });
    return id;
  }
  if ((await KeptView.count({ where: own })) >= mostKept)
    throw new Problem(409, 'too-many', `${mostKept} views of this list are kept already. Take one out first.`);
  const made = await KeptView.create({ ...own, ...values });
  return made.id;
}

/**
 * Of roles it is said what they don't get. Whether an address is a member's is told to nobody: the view opens for
 * whoever has it, gets the list and sees whole what its filter asks.
 */
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
          .filter((role) => !isPlainTo(visit, section, kept, oneOf(role)))
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
