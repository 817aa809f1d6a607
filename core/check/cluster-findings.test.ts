import { expect, it } from 'vitest';
import { wellsCatalogue } from '../../test/wells';
import { kinds, own, sound, strict } from './mistakes.fixture';

/** All tables lie in a cluster, some of them without a key. */
const inCluster = (...keyless: string[]): typeof strict => ({
  ...strict,
  tables: strict.tables.map((table) => ({
    ...table,
    inCluster: keyless.includes(table.name) ? 'without a key' : 'with a key',
  })),
});
const found = (draft = sound(), catalogue: typeof wellsCatalogue = inCluster('wells')) =>
  kinds(draft, catalogue).flatMap(({ kind, place }) =>
    kind === 'cluster without a key' || kind === 'numbers with gaps' ? [[kind, place.table]] : [],
  );

it('a cluster wants a key of each table that somebody may do something with', () => {
  expect(found()).toEqual([['cluster without a key', 'wells']]);
  expect(found(sound(), inCluster('visits'))).toEqual([]);
  expect(found(sound(), strict)).toEqual([]);
  // A builder's word for a key is none of the database's.
  const byWord = inCluster('wells').tables.map((table) => ({ ...table, keyByWord: true as const }));
  expect(found(sound(), { ...strict, tables: byWord })).toEqual([['cluster without a key', 'wells']]);
});

it('numbers that a cluster gives and somebody sees have gaps', () => {
  const draft = sound();
  own(draft).see!.columns.push('id');
  expect(found(draft, inCluster())).toEqual([['numbers with gaps', 'wells']]);
  expect(found(draft, strict)).toEqual([]);
  // Of two sources only one may be a cluster.
  const elsewhere = inCluster().tables.map((table) => ({ ...table, inCluster: undefined }));
  expect(found(draft, { ...strict, tables: elsewhere })).toEqual([]);
});
