import { expect, it } from 'vitest';
import type { ChangeReport } from '../../client/change-report';
import { reportLines } from './report-lines';

const names = { tableInText: (name: string) => name, column: (_: string, name: string) => name, roles: String };
const none = { gained: 0, lost: 0 };
const change: ChangeReport['groups'][number]['change'] = {
  rows: { gained: 5, lost: 0, kept: 2 },
  columns: { fee: { opened: 0, closed: 3 }, note: { opened: 0, closed: 3 } },
  editable: { note: { gained: 1, lost: 0 } },
  deletable: none,
  creatable: { gained: ['note'], lost: [] },
  comments: { gained: [], lost: [] },
  files: { gained: [], lost: [] },
  history: { gained: [], lost: [] },
};
const person = (id: number) => ({ id, name: `P${id}` });
const group = (people: number[]) => ({
  table: 'visits',
  rolesBefore: ['a'],
  rolesAfter: ['a'],
  facts: {},
  people: people.map(person),
  change,
});

it('puts together what is told of people with the same roles, what is most first, and nobody twice', () => {
  const report: ChangeReport = {
    from: 1,
    to: null,
    people: 9,
    parts: [],
    pages: [{ id: 'p', title: 'Fees', gained: [], lost: [person(7)] }],
    groups: [group([1, 2]), group([3])],
  };
  const lines = reportLines(report, names);
  expect(lines.map(({ more, what }) => `${more ? '+' : '-'} ${what}`)).toEqual([
    '+ see 15 visits in all that they did not see',
    '+ may change note of 3 visits in all',
    '+ may fill note where they add to visits',
    '- no longer get the page Fees',
    '- see less in fee, note of 9 visits in all',
  ]);
  expect(lines[0]!.people.map(({ id }) => id)).toEqual([1, 2, 3]);
});
