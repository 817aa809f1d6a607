import mariadbParser from 'node-sql-parser/build/mariadb.js';
import postgresParser from 'node-sql-parser/build/postgresql.js';

// A parser of each database's own: the package's file with all of them takes seven times as long to load.
const parsers = { mariadb: new mariadbParser.Parser(), postgresql: new postgresParser.Parser() };

/** The syntax tree, or trees, of a text. Throws what the package throws, with the place where it stopped. */
export function parseSql(text: string, database: 'mariadb' | 'postgresql'): unknown {
  return parsers[database].astify(text);
}
