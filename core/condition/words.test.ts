import { describe, expect, it } from 'vitest';
import { describeCondition, describeOperand, type Naming } from './describe';
import { parseCondition } from './parse';
import { tellingPart } from './telling';

const values: Record<string, string> = { 'state 1': 'open', 'state true': 'ajar', 'marks r': 'Red' };
const naming: Naming = {
  path: (path) => `the ${path.join(' of ')}`,
  value: (path, text) => values[`${path.join('.')} ${text}`],
  table: (name) => `Our ${name}`,
  inside: (relation) => ({ path: (path) => `${relation.join('.')}: ${path.join('.')}` }),
};
const said = (text: string, by?: Naming) => describeCondition(parseCondition(text).condition, by);

describe('a condition in words', () => {
  it('is said as people say it', () => {
    const sentences: [string, string][] = [
      ['depth_m <> 1 OR depth_m < 2', 'depth m is not 1, or depth m is less than 2'],
      ['depth_m <= 1 AND depth_m >= 2', 'depth m is at most 1, and depth m is at least 2'],
      ["state IN ('a', 'b')", 'state is one of "a", "b"'],
      ['depth_m BETWEEN 1 AND 2.5', 'depth m is from 1 to 2.5'],
      ["code LIKE 'AF%'", 'code looks like "AF%"'],
      ['code IS NULL', 'code is empty'],
      ['NOT (code IS NULL)', 'code is filled'],
      ['NOT (code = 1)', 'it is not so that code is 1'],
      ['EXISTS (visits)', 'there is at least one of its visits'],
      ['NOT EXISTS (owner.wells)', "there is none of its owner's wells"],
      ['a = 1 AND (b = 2 OR c = 3)', 'a is 1, and (b is 2, or c is 3)'],
      ['a = 1 OR (b = 2 AND NOT (c = 3))', 'a is 1, or (b is 2, and it is not so that c is 3)'],
      ['open = TRUE OR open = FALSE', 'open is yes, or open is no'],
      ['at < :now', 'at is less than this moment'],
      ['code = :record.well_code', "code is the page's well code"],
      ['day = :today + INTERVAL 1 DAY', 'day is 1 day after today'],
      ['day = :today - INTERVAL 2 WEEK', 'day is 2 weeks before today'],
      ['id = :member.id', 'id is the member'],
      ['mail = :member.email', "mail is the member's email"],
      ['id = :member.owners.id', "id is the member's row in owners"],
      ['id = :member.owners.home_parish', "id is the member's home parish in owners"],
      ['id = :member.owners.home.id', "id is the member's home's id in owners"],
    ];
    for (const [text, sentence] of sentences) expect([text, said(text)]).toEqual([text, sentence]);
  });

  it('calls things as they are called', () => {
    const sentences: [string, string][] = [
      ['state = 1', 'the state is open'],
      ['1 = state', 'open is the state'],
      ['state = 2', 'the state is 2'],
      ['state IN (1, 2)', 'the state is one of open, 2'],
      ['state = TRUE', 'the state is ajar'],
      ["'r' IN marks", 'the marks includes Red'],
      ['depth = 1', 'the depth is 1'],
      ['id = :member.owners.name', "the id is the member's name in Our owners"],
      ['EXISTS (visits WHERE visits.fee = 1)', 'there is at least one of its the visits where visits: fee is 1'],
    ];
    for (const [text, sentence] of sentences) expect([text, said(text, naming)]).toEqual([text, sentence]);
    const mine = { ...naming, member: (fact: string[]) => `your ${fact.join(' ')}` };
    expect(said('id = :member.owners.name', mine)).toBe('the id is your owners name');
    expect(describeOperand({ kind: 'number', digits: '1' }, naming)).toBe('1');
  });

  it('is short where it has a short form', () => {
    const told = (text: string, by?: Naming) => tellingPart(parseCondition(text).condition, by);
    const parts: [string, string][] = [
      ["state = 'open'", 'state open'],
      ["'open' = state", 'state open'],
      ['depth = 7', 'depth 7'],
      [':member.id = owner_id', 'own owner'],
      ['id_card = :member.id', 'own id card'],
      ['NOT EXISTS (owner.old_wells)', 'without owner old wells'],
      ['EXISTS (old_wells)', 'with old wells'],
      ["NOT (state = 'open')", 'not state open'],
      // The rest is said in full.
      ['depth > 7', 'depth is more than 7'],
      ['depth = height', 'depth is height'],
      ['depth IN (1, :member.id)', 'depth is one of 1, the member'],
      ['depth IN (TRUE, 1)', 'depth is one of yes, 1'],
      [':member.id IN (1, depth)', 'the member is one of 1, depth'],
      ['depth <> 7', 'depth is not 7'],
      ['depth IS NULL', 'depth is empty'],
    ];
    for (const [text, part] of parts) expect([text, told(text)]).toEqual([text, part]);
    expect([told('state = 1', naming), told('state IN (1, 2)', naming), told('state = TRUE', naming)]).toEqual([
      'the state open',
      'the state open, 2',
      'the state ajar',
    ]);
  });
});
