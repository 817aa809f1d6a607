import { expect, it } from 'vitest';
import { tellsByDefault } from './telling-default';

/** As MariaDB's and PostgreSQL's catalogues write defaults. */
it.each([
  ['current_timestamp()', true],
  ['(current_timestamp(6))', true],
  ['now()', true],
  ['CURRENT_DATE', true],
  ['LOCALTIMESTAMP', true],
  ['uuid()', true],
  ['uuid_short()', true],
  ['uuidv7()', true],
  ["nextval('doubts_id_seq'::regclass)", true],
  ['(current_user())', true],
  ['CURRENT_USER', true],
  ['connection_id()', true],
  ['unix_timestamp()', true],
  ['lcase(hex(random_bytes(16)))', false],
  ['gen_random_uuid()', false],
  ['uuid_v4()', false],
  ['md5((random())::text)', false],
  ["'now and then'", false],
  ["'user'::character varying", false],
  ['0', false],
  ['NULL', false],
])('%s tells: %s', (expression, tells) => expect(tellsByDefault(expression)).toBe(tells));
