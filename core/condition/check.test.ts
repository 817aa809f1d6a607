import { describe, expect, it } from 'vitest';
import { column } from '../../test/wells';
import { withManyRelations, type Table } from '../table/catalogue';
import { checkCondition, readCondition } from './check';
import { comparedAs, kindOf, operandKind } from './operand-kind';
import { parseCondition } from './parse';
import type { ConditionScope } from './scope';
import type { Condition, Operand } from './tree';

/** A table with a column of every type, and one that it belongs to, of which some columns are closed. */
const things: Table = {
  name: 'things',
  key: ['id'],
  relations: [
    { name: 'place', column: 'place_id', table: 'places', targetColumn: 'id' },
    { name: 'hidden', column: 'hidden_id', table: 'places', targetColumn: 'id' },
  ],
  ceiling: { columns: { hidden_id: 'nothing', secret: 'nothing', sealed: 'read' } },
  columns: [
    column('id', 'whole number'),
    column('place_id', 'whole number'),
    column('hidden_id', 'whole number'),
    column('secret', 'text'),
    column('sealed', 'text'),
    column('word', 'text'),
    column('words', 'long text'),
    column('exact', 'text', { collation: 'utf8mb4_bin' }),
    column('foreign_words', 'text', { collation: 'utf8mb4_swedish_ci' }),
    column('bare', 'text', { collation: undefined }),
    column('only_same', 'text', { equalityOnly: true }),
    column('same_size', 'whole number', { equalityOnly: true }),
    column('price', 'decimal'),
    column('weight', 'number'),
    column('open', 'yes/no'),
    column('day', 'date'),
    column('at', 'date and time'),
    column('hour', 'time'),
    column('state', 'one choice', { choices: ['new', 'old'] }),
    column('marks', 'several choices', { choices: ['red', 'blue'] }),
    column('foreign_marks', 'several choices', { choices: ['red'], collation: 'utf8mb4_swedish_ci' }),
    column('shape', 'other'),
    column('token', 'text', { read: 'uuid' }),
  ],
};

const catalogue = withManyRelations({
  schema: 'things',
  tables: [
    things,
    {
      name: 'places',
      key: ['id'],
      relations: [],
      ceiling: { columns: { code: 'nothing' } },
      columns: [
        column('id', 'whole number'),
        column('name', 'text'),
        column('code', 'text'),
        column('email', 'text'),
        column('since', 'date'),
        column('exact_name', 'text', { collation: 'utf8mb4_bin' }),
        column('state', 'one choice', { choices: ['new'] }),
      ],
    },
  ],
});
const scope: ConditionScope = { catalogue, table: catalogue.tables[0]!, member: true };
const places = catalogue.tables[1]!;

const at = (path: string): Operand => ({ kind: 'column', path: path.split('.') });

/** What is wrong with it, and of which words it is said. */
function problems(text: string, more: Partial<ConditionScope> = {}): (string | undefined)[] {
  const { condition, spans } = parseCondition(text);
  return checkCondition(condition, { ...scope, ...more }).flatMap(({ reason, operand }) => {
    const span = operand && spans.get(operand);
    return [reason, span && text.slice(span.at, span.end)];
  });
}

describe('what values are compared as', () => {
  const as = (text: string, more: Partial<ConditionScope> = {}) => {
    const { condition } = parseCondition(text);
    if (condition.kind === 'compare') return comparedAs([condition.left, condition.right], { ...scope, ...more });
    if (condition.kind === 'in') return comparedAs([condition.left, ...condition.list], { ...scope, ...more });
    throw new Error('it compares nothing');
  };

  it('follows from the type of a column', () => {
    const ofKind = (kind: string) =>
      scope.table.columns.filter((each) => kindOf(each) === kind).map(({ name }) => name);
    expect(['whole', 'decimal', 'double', 'truth', 'date', 'moment', 'choice', 'uuid', 'none'].map(ofKind)).toEqual([
      ['id', 'place_id', 'hidden_id', 'same_size'],
      ['price'],
      ['weight'],
      ['open'],
      ['day'],
      ['at'],
      ['state'],
      ['token'],
      ['hour', 'marks', 'foreign_marks', 'shape'],
    ]);
    expect(ofKind('text')).toEqual(expect.arrayContaining(['word', 'words']));
  });

  it('follows from what stands for a value', () => {
    const member = (...fact: string[]): Operand => ({ kind: 'member', fact });
    const ways: [Operand, string][] = [
      [at('place.since'), 'date'],
      [{ kind: 'text', text: '7' }, 'text'],
      [{ kind: 'number', digits: '7' }, 'whole'],
      [{ kind: 'number', digits: '7.0' }, 'decimal'],
      [{ kind: 'boolean', value: true }, 'truth'],
      [{ kind: 'clock', what: 'today' }, 'date'],
      [{ kind: 'clock', what: 'now' }, 'moment'],
      [member('id'), 'whole'],
      [member('email'), 'text'],
      [member('organisation'), 'text'],
      [member('shoes'), 'none'],
      [member('places', 'since'), 'date'],
      [member('places', 'state'), 'choice'],
      [{ kind: 'record', column: 'state' }, 'choice'],
    ];
    expect(ways.map(([operand]) => operandKind(operand, { ...scope, record: places }))).toEqual(
      ways.map(([, kind]) => kind),
    );
  });

  it('is the wider of all that is compared', () => {
    expect(as('id = 7')).toBe('whole');
    expect(as('id = 7.5')).toBe('decimal');
    expect(as('price = 7')).toBe('decimal');
    expect(as('weight IN (7, 7.5)')).toBe('double');
    expect(as('price = weight')).toBe('double');
    expect(as('open = TRUE')).toBe('truth');
    expect(as("day = '2026-01-02'")).toBe('date');
    expect(as("day = '2026-01-02 10:00'")).toBe('moment');
    expect(as('day = :today')).toBe('date');
    expect(as('day < at')).toBe('moment');
    expect(as('day < :now')).toBe('moment');
    expect(as("at = '2026-01-02'")).toBe('moment');
    expect(as("token = '6f1b7a52-0c7e-4d0f-9a54-0d1e2f3a4b5c'")).toBe('uuid');
    expect(as('word = :member.email')).toBe('text');
    expect(as("state = 'new'")).toBe('choice');
    expect(as('word = state')).toBe('choice');
    expect(as('word = words')).toBe('text');
    // Where there are no records, by what is known of the member.
    expect(as("'new' = :member.places.state", { memberAlone: true })).toBe('choice');
    expect(as('7.5 < :member.id', { memberAlone: true })).toBe('decimal');
  });

  it('says what can not be compared, and of which value', () => {
    const wrong: [string, string, string][] = [
      ["hour = '10:00'", 'hour (time) can only be tested with IS NULL', 'hour'],
      ["marks = 'red'", 'marks (several choices) can only be tested with IS NULL', 'marks'],
      ["shape = 'x'", 'shape (other) can only be tested with IS NULL', 'shape'],
      ["id = 'x'", "id is a number and can't be compared with 'x'", "'x'"],
      ['word = 7', "word is text and can't be compared with 7", '7'],
      ["open = 'yes'", "open is a yes/no and can't be compared with 'yes'", "'yes'"],
      ['day = 7', "day is a date and can't be compared with 7", '7'],
      ["day = 'soon'", "day is a date; write it like '2026-11-24'", "'soon'"],
      ['token = 7', "token is a UUID and can't be compared with 7", '7'],
      ["token = '7'", "token is a UUID; write it like '6f1b7a52-0c7e-4d0f-9a54-0d1e2f3a4b5c'", "'7'"],
      ["state = 'odd'", "state has no choice 'odd'; did you mean old?", "'odd'"],
      ['id = hour', "id is a number and can't be compared with hour", 'hour'],
      [`price = ${'1'.repeat(31)}`, 'a number may have 30 digits at most', '1'.repeat(31)],
      ['word = exact', 'these columns compare text differently (utf8mb4_general_ci, utf8mb4_bin)', 'word'],
      [
        "foreign_words = 'x'",
        "foreign_words has the collation utf8mb4_swedish_ci, which conditions can't compare yet",
        'foreign_words',
      ],
      ["bare = 'x'", "bare has the collation none, which conditions can't compare yet", 'bare'],
    ];
    for (const [text, reason, words] of wrong) expect([text, ...problems(text)]).toEqual([text, reason, words]);
    expect(problems(`price = ${'1'.repeat(30)}`)).toEqual([]);
    expect(problems(`price = -${'1'.repeat(15)}.${'1'.repeat(15)}`)).toEqual([]);
    expect(problems("'odd' = :member.places.state", { memberAlone: true })).toEqual([
      ":member.places.state has no choice 'odd'",
      "'odd'",
    ]);
    expect(problems(':member.places.exact_name = :member.places.name', { memberAlone: true })).toEqual([]);
  });
});

describe('what keeps a condition from being used', () => {
  it('is said of the words that it lies in', () => {
    const wrong: [string, string, string | undefined][] = [
      ['nothing IS NULL', 'there is no column nothing in things', 'nothing'],
      [':member.id IS NULL', 'a comparison needs a column of the table', ':member.id'],
      ['7 = :member.id', 'a comparison needs a column of the table', '7'],
      [
        ':member.shoes = id',
        "a member has no shoes; for a roster's column write :member.<table>.<column>",
        ':member.shoes',
      ],
      [':member.places.shoes = id', 'there is no column shoes in places', ':member.places.shoes'],
      ['only_same < 7', "only_same is text and can't be compared with 7", '7'],
      ["only_same < 'x'", 'only_same has no order; compare it with = or <>', 'only_same'],
      ['open < TRUE', 'open has no order; compare it with = or <>', 'open'],
      ["state BETWEEN 'new' AND 'old'", 'state has no order; use = or IN', 'state'],
      ['same_size BETWEEN 1 AND 2', 'same_size has no order; use = or IN', 'same_size'],
      ["id BETWEEN 1 AND 'x'", "id is a number and can't be compared with 'x'", "'x'"],
      ['id BETWEEN nothing AND 7', 'there is no column nothing in things', 'nothing'],
      ["id LIKE '7%'", 'LIKE works on text, and id is whole number', 'id'],
      ["state LIKE 'n%'", 'LIKE works on text, and state is one choice', 'state'],
      ["only_same LIKE 'n%'", 'LIKE works on text, and only_same is text', 'only_same'],
      ["nothing LIKE 'n%'", 'there is no column nothing in things', 'nothing'],
      [":member.email LIKE 'n%'", 'a comparison needs a column of the table', ':member.email'],
      ['word LIKE :member.email', 'the pattern after LIKE must be a text in quotes', ':member.email'],
      ["word LIKE '\\'", 'the pattern ends in a single \\; write \\\\ for the sign itself', "'\\'"],
      [
        "foreign_words LIKE 'n%'",
        "foreign_words has the collation utf8mb4_swedish_ci, which conditions can't compare yet",
        'foreign_words',
      ],
      ["'red' IN word", 'word is text; a single column after IN must hold several choices', 'word'],
      ["'red' IN nothing", 'there is no column nothing in things', 'nothing'],
      [':member.id IN marks', ":member.id is no text and can't be among the choices of marks", ':member.id'],
      ["'blu' IN marks", "marks has no choice 'blu'; did you mean blue?", "'blu'"],
      [
        "'red' IN foreign_marks",
        "foreign_marks has the collation utf8mb4_swedish_ci, which conditions can't compare yet",
        'foreign_marks',
      ],
      ['word + INTERVAL 1 DAY = day', 'word is no date, so no interval can be added to it', 'word + INTERVAL 1 DAY'],
      ['day + INTERVAL 1 HOUR = at', 'day is a date without time; move it by days or more', 'day + INTERVAL 1 HOUR'],
      [
        'day + INTERVAL 1 MINUTE = at',
        'day is a date without time; move it by days or more',
        'day + INTERVAL 1 MINUTE',
      ],
      ['nothing + INTERVAL 1 DAY = day', 'there is no column nothing in things', 'nothing'],
      ['id = :record.id', ":record.id can only stand in the filter of a section on a record's page", ':record.id'],
    ];
    for (const [text, reason, words] of wrong) expect([text, ...problems(text)]).toEqual([text, reason, words]);
    for (const text of [
      "word LIKE 'a\\\\'",
      "word LIKE '\\\\'",
      'at + INTERVAL 1 HOUR > :now',
      'day + INTERVAL 1 DAY > :today',
      ':member.email IN marks',
      ':member.places.state IN marks',
      "state <> 'new'",
      'open <> TRUE',
      "only_same = 'x'",
      "only_same IN ('x', 'y')",
      'id BETWEEN 1 AND 2',
      'id = :member.id AND place.name IS NULL',
      'hour IS NULL',
      "sealed = 'x'",
    ])
      expect([text, ...problems(text)]).toEqual([text]);
    expect(problems('nothing = 1 OR NOT (some = 2 AND id = 3)')).toEqual([
      'there is no column nothing in things',
      'nothing',
      'there is no column some in things',
      'some',
    ]);
  });

  it('is what nobody may read, but for the rule that closes it', () => {
    const words = (column: string) => `the ceiling lets nobody read ${column}, so no rule may ask it`;
    const closed: [string, string, string][] = [
      ["secret = 'x'", words('things.secret'), 'secret'],
      ["hidden.name = 'x'", words('things.hidden_id'), 'hidden.name'],
      ["place.code = 'x'", words('places.code'), 'place.code'],
      [':member.places.code = word', words('places.code'), ':member.places.code'],
    ];
    for (const [text, reason, of] of closed) expect([text, ...problems(text)]).toEqual([text, reason, of]);
    for (const [text] of closed.slice(0, 3)) expect([text, ...problems(text, { atSource: true })]).toEqual([text]);
    // The records that lead here by a closed column, and those of a place that only a closed one leads to.
    const ofHidden = places.many!.find((each) => each.column === 'hidden_id')!;
    const ofPlace = places.many!.find((each) => each.column === 'place_id')!;
    expect(problems(`EXISTS (${ofHidden.name})`, { table: places })[0]).toBe(words('things.hidden_id'));
    expect(problems(`EXISTS (${ofHidden.name})`, { table: places, atSource: true })).toEqual([]);
    expect(problems(`EXISTS (${ofPlace.name})`, { table: places })).toEqual([]);
    expect(problems(`EXISTS (hidden.${ofPlace.name})`)[0]).toBe(words('things.hidden_id'));
    expect(problems(`EXISTS (${ofPlace.name} WHERE ${ofPlace.name}.nothing = 1)`, { table: places })[0]).toBe(
      'there is no column nothing in things',
    );
    expect(problems('EXISTS (elsewhere)')[0]).toBe('there is no to-many relation elsewhere in things');
  });

  it('is what the place has not: a member, records, the page', () => {
    const alone = { member: false };
    const used = ":member.id can't be used here; compare with a value";
    expect(problems('id = :member.id', alone)).toEqual([used, ':member.id']);
    expect(problems('id = :member.id', { ...alone, ownFacts: [['email'], ['id']] })).toEqual([]);
    expect(problems('id = :member.id', { ...alone, ownFacts: [['id', 'more']] })).toEqual([used, ':member.id']);
    expect(problems('id = :member.id', { ...alone, ownFacts: [['email']] })).toEqual([used, ':member.id']);
    expect(problems("'x' = 'x'", { memberAlone: true })).toEqual([
      'a comparison needs something that is known of the member',
      "'x'",
    ]);
    expect(problems(":member.email = 'x'", { memberAlone: true })).toEqual([]);
    expect(problems(':member.places.since + INTERVAL 1 DAY < :today', { memberAlone: true })).toEqual([]);
    expect(problems(':member.id IS NULL', { lacks: true })).toEqual([]);
    expect(problems(':member.shoes IS NULL', { lacks: true })[1]).toBe(':member.shoes');
    expect(problems('7 IS NULL', { lacks: true })).toEqual(['a comparison needs a column of the table', '7']);
    const record = { record: { ...places, ceiling: { columns: { code: 'nothing' as const } } } };
    expect(problems('word = :record.name', record)).toEqual([]);
    expect(problems('word = :record.nme', record)).toEqual([
      'there is no column nme in places; did you mean name?',
      ':record.nme',
    ]);
    expect(problems('word = :record.code', record)).toEqual([
      'the ceiling lets nobody read places.code, so no rule may ask it',
      ':record.code',
    ]);
    expect(() => readCondition('id = 1 AND word = 2', scope)).toThrow(
      "line 1, column 19: word is text and can't be compared with 2",
    );
    const whole: Condition = { kind: 'compare', comparison: '=', left: at('id'), right: { kind: 'text', text: 'x' } };
    expect(checkCondition(whole, scope)).toEqual([
      { reason: "id is a number and can't be compared with 'x'", operand: { kind: 'text', text: 'x' } },
    ]);
  });
});
