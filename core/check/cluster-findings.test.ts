import { expect, it } from 'vitest';
import { wellsCatalogue } from '../../test/wells';
import { kinds, own, sound, strict } from './mistakes.fixture';

const inCluster = (...keyless: string[]) => ({ ...strict, cluster: { keyless } });
const found = (draft = sound(), catalogue: typeof wellsCatalogue = inCluster('wells')) =>
  kinds(draft, catalogue).flatMap(({ kind, place }) =>
    kind === 'cluster without a key' || kind === 'numbers with gaps' ? [[kind, place.table]] : [],
  );

it('a cluster wants a key of each table that somebody may do something with', () => {
  expect(found()).toEqual([['cluster without a key', 'wells']]);
  expect(found(sound(), inCluster('visits'))).toEqual([]);
  expect(found(sound(), strict)).toEqual([]);
  // A table of another source may have the same name there.
  const elsewhere = strict.tables.map((table) => (table.name === 'wells' ? { ...table, stored: 'wells' } : table));
  expect(found(sound(), { ...inCluster('wells'), tables: elsewhere })).toEqual([]);
});

it('numbers that a cluster gives and somebody sees have gaps', () => {
  const draft = sound();
  own(draft).see!.columns.push('id');
  expect(found(draft, inCluster())).toEqual([['numbers with gaps', 'wells']]);
  expect(found(draft, strict)).toEqual([]);
});
