import { firstLoad } from '../bench/first-load';
import { expect } from './expect';
import { test } from './steps';

test('the web is as small as it is meant to be: what a first visit downloads keeps to its budgets', async () => {
  const figures = await firstLoad();
  expect(figures).toHaveLength(4);
  expect(
    figures.filter(({ ours, reference }) => ours > reference).map(({ name, ours }) => `${name}: ${ours} kB`),
  ).toEqual([]);
});
