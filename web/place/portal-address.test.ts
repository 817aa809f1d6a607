import fc from 'fast-check';
import { expect, it } from 'vitest';
import { plainList, type ListState } from './place';
import { addressOf, spotOf } from './portal-address';

const text = fc.string({ maxLength: 12 }).filter((each) => each.isWellFormed());
const state = fc.record({
  widths: text,
  chart: text,
  view: text,
  columns: text,
  search: text,
  filter: text,
  sort: text,
  after: text,
  before: text,
});
const id = fc.constantFrom('wells', 'wells-2', 'lab-bottles', 'words');

/** As a browser and a router take an address apart. */
function read(address: string, first?: string) {
  const url = new URL(`/p/fen/${address}`, 'https://portal.example');
  const [, , , page, section, record] = url.pathname.split('/').map(decodeURIComponent);
  return spotOf({ page: page!, section, record }, url.searchParams, first);
}

it('an address tells how each section of a page stands, and the record that is open', () => {
  fc.assert(
    fc.property(
      fc.dictionary(id, state),
      fc.option(
        fc.record({
          section: id,
          id: fc.string({ minLength: 1, maxLength: 9 }).filter((each) => each.isWellFormed() && !/^\.+$/.test(each)),
        }),
      ),
      (lists, record) => {
        const told = Object.fromEntries(
          Object.entries(lists).filter(([, each]) => Object.values(each).some((value) => value !== '')),
        ) as Record<string, ListState>;
        expect(read(addressOf({ page: 'my-wells', record, lists }), 'other')).toEqual({
          page: 'my-wells',
          record,
          lists: told,
        });
      },
    ),
  );
});

it("an address of before sections had ids leads to the page's first list", () => {
  expect(read('my-wells/231?sort=-code&search=ash', 'wells')).toEqual({
    page: 'my-wells',
    record: { section: 'wells', id: '231' },
    lists: { wells: { ...plainList, sort: '-code', search: 'ash' } },
  });
  expect(read('words/231', undefined)).toEqual({ page: 'words', record: null, lists: {} });
});

it('an address keeps what a link says, signed or not', () => {
  const spot = { page: 'ask', record: null, lists: {}, given: { parish: 'Low Fen' }, signed: 'eyJ9.x-_y' };
  expect(read(addressOf(spot))).toEqual(spot);
});
