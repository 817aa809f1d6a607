import type { Catalogue } from '../table/catalogue';
import type { Dialect } from './dialect';
import { mariadb } from './mariadb';
import { postgresql } from './postgresql';

/** The dialect of the database that a catalogue was read from. */
export function dialectOf(catalogue: Pick<Catalogue, 'database'>): Dialect {
  return catalogue.database === 'postgresql' ? postgresql : mariadb;
}
