import { records, type ListAnswer, type ListParams } from './portal';

/** The ids of all records that a list finds, as it stands, up to so many. */
export async function matchingIds(
  base: string,
  page: string,
  section: string,
  { view, search, filter, sort }: Pick<ListParams, 'view' | 'search' | 'filter' | 'sort'>,
  most: number,
): Promise<string[]> {
  const ids: string[] = [];
  for (let after: string | null = ''; after !== null && ids.length < most;) {
    const query: ListParams = { view, search, filter, sort, after, before: '', columns: '', size: 200 };
    const answer: ListAnswer = await records(base)('GET /pages/:page/:section', { params: { page, section }, query });
    ids.push(...answer.records.flatMap(({ id }) => id ?? []));
    after = answer.next;
  }
  return ids.slice(0, most);
}
