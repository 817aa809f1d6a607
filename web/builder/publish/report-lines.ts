import { besideSheet } from '../../../core/definition/hung';
import { counted } from '../../../core/text/counted';
import type { ChangeReport } from '../../client/change-report';
import type { useNames } from '../bench/names';

type Names = Pick<ReturnType<typeof useNames>, 'tableInText' | 'column' | 'roles'>;
type Person = ChangeReport['pages'][number]['gained'][number];

/** One thing that changes, for whom. */
export interface ReportLine {
  /** Whether people get more, or less. */
  more: boolean;
  who: string;
  what: string;
  people: Person[];
  /** How much it is: lines with more come first. */
  weight: number;
}

type Sums = Map<string, number>;

/** What changes for people with the same roles on one table, put together. */
interface Merged {
  table: string;
  before: string[];
  after: string[];
  people: Map<number | null, Person>;
  more: Sums;
  less: Sums;
}

const add = (sums: Sums, key: string, by: number): unknown => by > 0 && sums.set(key, (sums.get(key) ?? 0) + by);

function merged(groups: ChangeReport['groups']): Merged[] {
  const found = new Map<string, Merged>();
  for (const { table, rolesBefore: before, rolesAfter: after, people, change } of groups) {
    const key = JSON.stringify([table, before, after]);
    const one = found.get(key) ?? { table, before, after, people: new Map(), more: new Map(), less: new Map() };
    found.set(key, one);
    for (const person of people) one.people.set(person.id, person);
    const each = people.length;
    const { more, less } = one;
    add(more, 'rows', change.rows.gained * each);
    add(less, 'rows', change.rows.lost * each);
    for (const [column, { opened, closed }] of Object.entries(change.columns)) {
      add(more, `see ${column}`, opened * each);
      add(less, `see ${column}`, closed * each);
    }
    for (const [column, { gained, lost }] of Object.entries(change.editable)) {
      add(more, `edit ${column}`, gained * each);
      add(less, `edit ${column}`, lost * each);
    }
    add(more, 'delete', change.deletable.gained * each);
    add(less, 'delete', change.deletable.lost * each);
    for (const column of change.creatable.gained) add(more, `fill ${column}`, each);
    for (const column of change.creatable.lost) add(less, `fill ${column}`, each);
    for (const hung of besideSheet) {
      for (const said of change[hung].gained) add(more, `hung ${said}`, each);
      for (const said of change[hung].lost) add(less, `hung ${said}`, each);
    }
  }
  return [...found.values()];
}

/** Columns of which the same is told of as many records are told together. */
function together(sums: Sums): { what: string; details: string[]; n: number }[] {
  const found = new Map<string, { what: string; details: string[]; n: number }>();
  for (const [key, n] of sums) {
    const [what, ...rest] = key.split(' ') as [string, ...string[]];
    const one = found.get(`${what} ${n}`) ?? { what, details: [], n };
    found.set(`${what} ${n}`, one);
    one.details.push(rest.join(' '));
  }
  return [...found.values()];
}

/** What people gain or lose, in words; `n` is over all of them. */
function words(
  names: Names,
  { table, people }: Pick<Merged, 'table' | 'people'>,
  { what, details, n }: ReturnType<typeof together>[number],
  more: boolean,
): string {
  const of = names.tableInText(table);
  const records = `${n.toLocaleString()} ${of}${people.size > 1 ? ' in all' : ''}`;
  const columns = () => details.map((column) => names.column(table, column)).join(', ');
  const may = more ? 'may' : 'may no longer';
  switch (what) {
    case 'rows':
      return more ? `see ${records} that they did not see` : `no longer see ${records}`;
    case 'see':
      return `see ${more ? 'more' : 'less'} in ${columns()} of ${records}`;
    case 'edit':
      return `${may} change ${columns()} of ${records}`;
    case 'delete':
      return `${may} delete ${records}`;
    case 'fill':
      return `${may} fill ${columns()} where they add to ${of}`;
    default:
      return `${may} ${details.join(', ')} on ${of}`;
  }
}

/** A report line by line, what is most first. */
export function reportLines({ pages, groups }: ChangeReport, names: Names): ReportLine[] {
  const ofPages = pages.flatMap(({ title, gained, lost }): ReportLine[] =>
    [gained, lost].flatMap((people, i) =>
      people.length === 0
        ? []
        : [
            {
              more: i === 0,
              who: counted(people.length, 'person', 'people'),
              what: i === 0 ? `get the page ${title}` : `no longer get the page ${title}`,
              people,
              weight: people.length * 1000,
            },
          ],
    ),
  );
  const ofTables = merged(groups).flatMap(({ table, before, after, people: all, more, less }): ReportLine[] => {
    const people = [...all.values()];
    const same = JSON.stringify(before) === JSON.stringify(after);
    const roles = names.roles(after) || 'without a role';
    const who = same ? roles : `${names.roles(before) || 'without a role'}, now ${roles}`;
    const line = (isMore: boolean, each: ReturnType<typeof together>[number]): ReportLine => ({
      more: isMore,
      who,
      what: words(names, { table, people: all }, each, isMore),
      people,
      weight: each.what === 'rows' ? each.n * 10 : each.n,
    });
    return [...together(more).map((each) => line(true, each)), ...together(less).map((each) => line(false, each))];
  });
  return [...ofPages, ...ofTables].sort((a, b) => Number(b.more) - Number(a.more) || b.weight - a.weight);
}
