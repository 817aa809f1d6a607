import type { PortalDefinition } from '../../core/definition/definition';
import type { Catalogue } from '../../core/table/catalogue';
import { person, wellsDefinition } from '../../test/wells';
import type { Source } from '../sources/source';
import type { Visit } from './view/visit';
/**
 * Types beyond the everyday ones: each is shown, and filtered as what it is or refused by name; never empty. Values and
 * counts are held against plain SQL of the database itself.
 */
export interface Kind {
  /** In the database's words. */
  type: string;
  first: string;
  second: string;
  /** How the database's own SQL says the text that people meet. */
  text: string;
  /** Absent where a filter must be refused. */
  filter?: string;
  /** The side that plain SQL compares, where it is not the column itself. */
  own?: string;
  /** What a person writes in its stead; absent where it can't be changed. */
  typed?: [string | boolean, unknown];
}

export const [one, two] = ['0f8fad5b-d9cb-469f-a165-70867728950e', '7c9e6679-7425-40de-944b-e07fc1f90ae7'];
const as = (how: string) => how.replaceAll('@', 'c');

export const postgres: Record<string, Kind> = {
  padded: {
    type: 'char(6)',
    first: "'ab'",
    second: "'abc'",
    text: as('RTRIM(@)'),
    filter: "= 'ab'",
    typed: ['xy', 'xy'],
  },
  code: {
    type: 'uuid',
    first: `'${one}'`,
    second: `'${two}'`,
    text: as('@::text'),
    filter: `= '${one.toUpperCase()}'`,
    typed: [two.toUpperCase(), two],
  },
  at: {
    type: 'timestamptz',
    first: "'2026-03-01 12:00+02'",
    second: "'2026-03-01 09:30:00.25Z'",
    text: as(
      "to_char(@ AT TIME ZONE 'UTC', 'YYYY-MM-DD HH24:MI:SS') || CASE WHEN extract(microsecond FROM @)::int % " +
        "1000000 = 0 THEN '' ELSE '.25' END",
    ),
    filter: "> '2026-03-01 09:45'",
    typed: ['2026-04-01T10:00', '2026-04-01 10:00:00'],
  },
  lasts: { type: 'interval', first: "'1 day 2 hours'", second: "'3 mons'", text: as('@::text') },
  words: { type: 'text[]', first: '\'{a,"b c"}\'', second: "'{}'", text: as("array_to_string(@, ', ')") },
  numbers: { type: 'int[]', first: "'{1,2}'", second: "'{3}'", text: as("array_to_string(@, ', ')") },
  document: { type: 'jsonb', first: `'{"a": [1, 2]}'`, second: "'null'", text: as('@::text') },
  plain_document: { type: 'json', first: `'{"a":1}'`, second: "'[]'", text: as('@::text') },
  parish: {
    type: 'parish_name',
    first: "'Marsh'",
    second: "'Hill'",
    text: as('@::text'),
    filter: "LIKE 'M%'",
    typed: ['Fen', 'Fen'],
  },
  small: { type: 'smaller', first: '5', second: '7', text: as('@::text'), filter: '> 5', typed: ['3', 3] },
  mood: {
    type: 'mood_domain',
    first: "'calm'",
    second: "'wild'",
    text: as('@::text'),
    filter: "= 'calm'",
    own: 'mood::text',
    typed: ['wild', 'wild'],
  },
  host: {
    type: 'inet',
    first: "'10.0.0.1'",
    second: "'10.0.0.0/8'",
    text: as('abbrev(@)'),
    filter: "= '10.0.0.1'",
    typed: ['::1', '::1'],
  },
  net: {
    type: 'cidr',
    first: "'10.0.0.0/8'",
    second: "'2001:db8::/32'",
    text: as('@::text'),
    filter: "= '10.0.0.0/8'",
    typed: ['192.168.0.0/16', '192.168.0.0/16'],
  },
  card: {
    type: 'macaddr',
    first: "'08:00:2b:01:02:03'",
    second: "'08:00:2b:01:02:04'",
    text: as('@::text'),
    filter: "= '08:00:2b:01:02:03'",
    typed: ['08-00-2b-01-02-09', '08:00:2b:01:02:09'],
  },
  raw: {
    type: 'bytea',
    first: "'\\x00ff'",
    second: "'\\x01'",
    text: as("octet_length(@) || CASE octet_length(@) WHEN 1 THEN ' byte' ELSE ' bytes' END"),
  },
  flags: { type: 'bit(3)', first: "B'101'", second: "B'000'", text: as('@::text') },
  clock: { type: 'timetz', first: "'10:00+02'", second: "'11:00Z'", text: as('@::text') },
  span: { type: 'int4range', first: "'[1,5)'", second: "'empty'", text: as('@::text') },
  place: { type: 'point', first: "'(1,2)'", second: "'(3,4.5)'", text: as('@::text') },
  made: {
    type: "text GENERATED ALWAYS AS ('n' || small::int::text) STORED",
    first: 'DEFAULT',
    second: 'DEFAULT',
    text: as('@'),
    filter: "= 'n5'",
  },
};

export const mariadb: Record<string, Kind> = {
  code: {
    type: 'UUID',
    first: `'${one}'`,
    second: `'${two}'`,
    text: as('CAST(@ AS CHAR)'),
    filter: `= '${one.toUpperCase()}'`,
    typed: [two.toUpperCase(), two],
  },
  host: {
    type: 'INET6',
    first: "'2001:db8::1'",
    second: "'::ffff:10.0.0.1'",
    text: as('CAST(@ AS CHAR)'),
    filter: "= '2001:db8::1'",
    typed: ['::1', '::1'],
  },
  older: {
    type: 'INET4',
    first: "'10.0.0.1'",
    second: "'10.0.0.2'",
    text: as('CAST(@ AS CHAR)'),
    filter: "= '10.0.0.1'",
    typed: ['10.9.9.9', '10.9.9.9'],
  },
  document: {
    type: 'JSON',
    first: `'{"a": [1, 2]}'`,
    second: "'[]'",
    text: as('CAST(@ AS CHAR)'),
    filter: "LIKE '%1, 2%'",
    typed: ['{"b":1}', '{"b":1}'],
  },
  place: { type: 'POINT', first: 'POINT(1, 2)', second: 'POINT(3, 4.5)', text: as('ST_AsText(@)') },
  area: {
    type: 'GEOMETRY',
    first: "ST_GeomFromText('POLYGON((0 0, 0 1, 1 1, 0 0))')",
    second: "ST_GeomFromText('LINESTRING(0 0, 1 1)')",
    text: as('ST_AsText(@)'),
  },
  raw: {
    type: 'BLOB',
    first: "x'00ff'",
    second: "x'01'",
    text: as("CONCAT(LENGTH(@), IF(LENGTH(@) = 1, ' byte', ' bytes'))"),
  },
  fixed: { type: 'BINARY(4)', first: "x'00ff'", second: "x'01'", text: as("CONCAT(LENGTH(@), ' bytes')") },
  flag: {
    type: 'BIT(1)',
    first: "b'1'",
    second: "b'0'",
    text: as("IF(@ + 0, 'true', 'false')"),
    filter: '= TRUE',
    typed: [false, false],
  },
  flags: { type: 'BIT(3)', first: "b'101'", second: "b'0'", text: as("LPAD(BIN(@ + 0), 3, '0')") },
  year: {
    type: 'YEAR',
    first: '1999',
    second: '2026',
    text: as('CAST(@ AS CHAR)'),
    filter: '> 2000',
    typed: ['2030', 2030],
  },
  unseen: {
    type: 'VARCHAR(9) INVISIBLE',
    first: "'there'",
    second: "'too'",
    text: as('@'),
    filter: "= 'there'",
    typed: ['now', 'now'],
  },
  stored: {
    type: "VARCHAR(9) AS (CONCAT('n', n)) STORED",
    first: 'DEFAULT',
    second: 'DEFAULT',
    text: as('@'),
    filter: "= 'n1'",
  },
  virtual: {
    type: 'INT AS (n * 2) VIRTUAL',
    first: 'DEFAULT',
    second: 'DEFAULT',
    text: as('CAST(@ AS CHAR)'),
    filter: '= 4',
  },
};

export interface Side {
  name: string;
  kinds: Record<string, Kind>;
  source: Source;
  catalogue: Catalogue;
  run: (text: string) => Promise<unknown[][]>;
}

export const definition = (kinds: Record<string, Kind>): PortalDefinition => {
  const columns = ['n', ...Object.keys(kinds)];
  return wellsDefinition(
    {
      kinds: {
        desk: { see: { where: 'every row', columns }, edit: { where: 'as seen', columns }, create: { columns } },
        owner: { see: { where: 'every row', columns } },
      },
    },
    Object.keys(kinds).map((column, i) => ({
      id: `m${i}`,
      table: 'kinds',
      column,
      mask: { style: column === 'code' ? 'keep last' : 'all', count: 4 } as never,
      to: ['owner'],
      exceptRoles: [],
    })),
  );
};

export const visit = (side: Side, who = person(['desk'])): Visit => ({
  definition: definition(side.kinds),
  catalogue: side.catalogue,
  person: who,
  moment: new Date(),
});
