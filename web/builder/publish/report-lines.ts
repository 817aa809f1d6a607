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
    for (const hung of ['comments', 'files'] as const) {
      for (const said of change[hung].gained) add(more, `hung ${said}`, each);
      for (const said of change[hung].lost) add(less, `hung ${said}`, each);
    }
  }
  return [...found.values()];
}

/** What somebody gains or loses, in words; `n` over all of them together. */
function words(names: Names, table: string, key: string, n: number, more: boolean, people: number): string {
  const of = names.tableInText(table);
  const [what, ...rest] = key.split(' ');
  const detail = rest.join(' ');
  const column = () => names.column(table, detail);
  const records = `${n.toLocaleString()} of ${of}`;
  const inAll = people > 1 ? ', counted for each of them' : '';
  switch (what) {
    case 'rows':
      return more ? `see ${records} that they did not see${inAll}` : `no longer see ${records}${inAll}`;
    case 'see':
      return `see ${more ? 'more' : 'less'} in ${column()} of ${records}${inAll}`;
    case 'edit':
      return `${more ? 'may' : 'may no longer'} change ${column()} of ${records}${inAll}`;
    case 'delete':
      return `${more ? 'may' : 'may no longer'} delete ${records}${inAll}`;
    case 'fill':
      return `${more ? 'may' : 'may no longer'} fill ${column()} where they add to ${of}`;
    default:
      return `${more ? 'may' : 'may no longer'} ${detail} on ${of}`;
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
    const line = (isMore: boolean, key: string, n: number): ReportLine => ({
      more: isMore,
      who,
      what: words(names, table, key, n, isMore, people.length),
      people,
      weight: key === 'rows' ? n * 10 : n,
    });
    return [...[...more].map(([key, n]) => line(true, key, n)), ...[...less].map(([key, n]) => line(false, key, n))];
  });
  return [...ofPages, ...ofTables].sort((a, b) => Number(b.more) - Number(a.more) || b.weight - a.weight);
}
