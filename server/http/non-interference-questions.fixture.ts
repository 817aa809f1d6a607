import type { Client } from '../../test/server';
import { changeable, guesses, relations } from './non-interference.fixture';

interface SectionAsked {
  id: string;
  columns?: { path: string; sortable: boolean }[];
  sheet?: { path: string }[];
  tabs?: { id: string }[];
}

/** Everything that a person asks: a method, an address and a body. */
export async function questionsOf(member: Client, at: string): Promise<[string, string, unknown?][]> {
  const asked: [string, string, unknown?][] = [['GET', `${at}/me`]];
  const { pages } = (await member.get(`${at}/me`)).body as {
    pages: { id: string; sections: SectionAsked[] }[];
  };
  for (const page of pages)
    for (const { id, columns = [], sheet = [], tabs = [] } of page.sections) {
      const list = `${at}/pages/${page.id}/${id}`;
      asked.push(
        ['GET', list],
        ['GET', `${list}?search=an`],
        ['GET', `${list}?columns=${sheet.map(({ path }) => path).join(',')}`],
        ['GET', `${list}/counts`],
        ...tabs.map((tab): [string, string] => ['GET', `${list}?view=${tab.id}`]),
        ['GET', `${list}/totals?search=an`],
        ['GET', `${list}/figure?search=an`],
        ['GET', `${list}/chart?search=an`],
        ['GET', `${list}/file?format=csv`],
        ...columns
          .filter((column) => column.sortable)
          .slice(0, 3)
          .map((column): [string, string] => ['GET', `${list}?sort=-${column.path}`]),
      );
    }
  for (const [table, columns] of Object.entries(changeable)) {
    const records = `${at}/records/${table}`;
    const paths = [...Object.keys(columns), ...(relations[table] ?? [])];
    const all = `columns=${paths.join(',')}`;
    asked.push(
      ['GET', `${at}/tables/${table}`],
      ['GET', `${records}?${all}`],
      ['GET', `${records}?${all}&search=a`],
      ['GET', `${at}/exports/${table}?format=csv&${all}`],
    );
    paths.forEach((path, i) =>
      asked.push(
        ['GET', `${records}?size=20&sort=${i % 2 ? '-' : ''}${path}`],
        [
          'GET',
          `${records}?size=20&filter=` +
            encodeURIComponent(
              i % 3 ? `${path} ${i % 2 ? '>' : '='} ${guesses[i % guesses.length]}` : `${path} IS NULL`,
            ),
        ],
        [
          'POST',
          `${at}/figures/${table}`,
          {
            measures: [{ what: i % 3 ? 'distinct' : 'maximum', column: path }, { what: 'count' }],
            by: i % 2 ? [{ column: path }] : [],
            filter: '',
          },
        ],
      ),
    );
    for (const id of ['1', '17', '231', '700', '99999'])
      asked.push(
        ['GET', `${records}/${id}`],
        ['PATCH', `${records}/${id}`, { changes: { [paths[0]!]: { from: 'never so', to: 'x' } } }],
      );
    for (const move of ['plan', 'sample', 'approve'])
      asked.push(['POST', `${records}/231/moves/${move}?trial=true`, {}]);
    for (const relation of ['wells', 'visits', 'samples', 'results', 'lab_staff'])
      asked.push(['GET', `${records}/231/related/${relation}`]);
    for (const relation of ['owner', 'well', 'sampler', 'lab', 'visit', 'sample'])
      asked.push(['GET', `${at}/lookups/${table}/${relation}?search=a`]);
  }
  return asked;
}
