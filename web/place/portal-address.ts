import { plainList, type ListState, type Spot } from './place';

const names = Object.keys(plainList) as (keyof ListState)[];

/** What a link gives to the forms of its page stands after this. */
const givenMark = 'give:';
const signedMark = 'signed';

/** The part of a portal's address after the page's own: its open record, and how its sections stand by their ids. */
export function addressOf({ page, record, lists, given = {}, signed }: Spot): string {
  const query = new URLSearchParams([
    ...Object.entries(lists).flatMap(([section, state]) =>
      names.filter((name) => state[name] !== '').map((name) => [`${section}.${name}`, state[name]]),
    ),
    ...Object.entries(given).map(([column, value]) => [givenMark + column, value]),
    ...(signed === undefined ? [] : [[signedMark, signed]]),
  ]);
  const open = record === null ? '' : `/${record.section}/${encodeURIComponent(record.id)}`;
  return `${page}${open}${query.size ? `?${query.toString()}` : ''}`;
}

/** What an address says of its page's sections. */
function listsOf(query: URLSearchParams): Record<string, ListState> {
  const lists: Record<string, ListState> = {};
  for (const [key, value] of query) {
    const at = key.lastIndexOf('.');
    const name = names.find((each) => each === key.slice(at + 1));
    if (at > 0 && name) lists[key.slice(0, at)] = { ...plainList, ...lists[key.slice(0, at)], [name]: value };
  }
  return lists;
}

function givenIn(query: URLSearchParams): Pick<Spot, 'given' | 'signed'> {
  const given = [...query].filter(([key]) => key.startsWith(givenMark));
  const signed = query.get(signedMark);
  const said = signed === null ? {} : { signed };
  return given.length === 0
    ? said
    : {
        ...said,
        given: Object.fromEntries(given.map(([key, value]) => [key.slice(givenMark.length), value.slice(0, 2000)])),
      };
}

/**
 * Where an address leads. Before sections had ids an address told only of a page's first list: `first` is its id, and
 * such an address leads there.
 */
export function spotOf(
  at: { page: string; section?: string; record?: string },
  query: URLSearchParams,
  first: string | undefined,
): Spot {
  const { page, section, record } = at;
  const lists = listsOf(query);
  const given = givenIn(query);
  const old = Object.fromEntries(names.map((name) => [name, query.get(name) ?? ''])) as unknown as ListState;
  if (first !== undefined && !Object.hasOwn(lists, first) && Object.values(old).some((value) => value !== ''))
    lists[first] = old;
  if (section === undefined) return { page, record: null, lists, ...given };
  if (record !== undefined) return { page, record: { section, id: record }, lists, ...given };
  return { page, record: first === undefined ? null : { section: first, id: section }, lists, ...given };
}
