import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { listOf } from '../../test/pages';
import { person, wellsCatalogue, wellsDefinition, when } from '../../test/wells';
import { evaluate } from '../condition/evaluate';
import type { Condition, Operand } from '../condition/tree';
import type { Page } from '../definition/definition';
import type { Audience } from '../definition/section-kinds';
import { findTable } from '../table/catalogue';
import type { Row } from '../table/value';
import { audienceProblems, pagesFor } from './audience';
import { contextOf, type Person } from './person';

const definition = wellsDefinition({}, []);
definition.roles.push({ id: 'desk', name: 'Desk' }, { id: 'guest', name: 'Guest' });
const moment = new Date('2026-11-26T12:00:00Z');
const owners = findTable(wellsCatalogue, 'owners')!;

const page = (id: string, audience: Audience, sections: Page['sections'] = []): Page => ({
  id,
  title: id,
  intro: '',
  audience,
  sections,
});

const got = (pages: Page[], who: Person) =>
  pagesFor({ definition: { ...definition, pages }, catalogue: wellsCatalogue, person: who, moment });

const text = fc.constantFrom('Saltby', 'SALTBY', 'Ash Green', '', '50%');
const constant = text.map((value): Operand => ({ kind: 'text', text: value }));
const column = fc.constantFrom('name', 'email', 'parish').map((name): Operand => ({ kind: 'column', path: [name] }));

/** Conditions on one row of the roster's own columns. */
const ofRow = fc.letrec<{ all: Condition; leaf: Condition }>((tie) => ({
  leaf: fc.oneof(
    fc
      .record({
        left: column,
        comparison: fc.constantFrom('=' as const, '<>' as const, '<' as const, '>=' as const),
        right: fc.oneof(constant, column),
      })
      .map((parts): Condition => ({ kind: 'compare', ...parts })),
    column.map((left): Condition => ({ kind: 'null', left })),
    fc
      .record({ left: column, list: fc.array(constant, { minLength: 1, maxLength: 3 }) })
      .map((parts): Condition => ({ kind: 'in', ...parts })),
  ),
  all: fc.oneof(
    { maxDepth: 3 },
    tie('leaf'),
    fc.array(tie('all'), { minLength: 2, maxLength: 3 }).map((parts): Condition => ({ kind: 'all', parts })),
    fc.array(tie('all'), { minLength: 2, maxLength: 3 }).map((parts): Condition => ({ kind: 'any', parts })),
    tie('all').map((part): Condition => ({ kind: 'not', part })),
  ),
})).all;

/** The same, asked of the member whose row it is. */
const ofMember = (condition: Condition): Condition =>
  JSON.parse(
    JSON.stringify(condition, (_, value: unknown) => {
      const operand = value as Partial<Operand> | null;
      return typeof operand === 'object' && operand?.kind === 'column'
        ? { kind: 'member', fact: ['owners', ...operand.path!] }
        : value;
    }),
  ) as Condition;

describe('an audience', () => {
  it("holds for a member where the same condition holds for their roster's row, and for nobody without one", () => {
    let held = 0;
    fc.assert(
      fc.property(
        ofRow,
        fc.record({ name: text, email: fc.option(text), parish: fc.option(text) }),
        (condition, values) => {
          const row: Row = { id: 17, phone: null, birth_date: null, ...values };
          const member = person(['owner'], { owners: row });
          const scope = { catalogue: wellsCatalogue, table: owners, member: true };
          const reader = { value: (path: readonly string[]) => row[path[0]!] ?? null, exists: () => false };
          const expected = evaluate(condition, scope, reader, contextOf(member, moment, 'UTC')) === true;
          const where = ofMember(condition);
          expect(audienceProblems(where, wellsCatalogue)).toEqual([]);
          const pages = [
            page('roles', { roles: ['owner'], where }),
            page('everyone', { roles: 'everyone', where }),
            page('others', { roles: ['desk'], where }),
            page('part', { roles: ['owner'] }, [listOf('wells', ['code'], { audience: { roles: 'everyone', where } })]),
          ];
          expect(got(pages, member).map(({ id, sections }) => [id, sections.length])).toEqual([
            ...(expected
              ? [
                  ['roles', 0],
                  ['everyone', 0],
                ]
              : []),
            ['part', expected ? 1 : 0],
          ]);
          if (expected) held++;
        },
      ),
      { numRuns: 500 },
    );
    expect(held).toBeGreaterThan(100);
    const strict = page('p', { roles: ['owner'], where: when("NOT (:member.owners.parish = 'Saltby')") });
    expect(got([strict], person(['owner'], {}))).toEqual([]);
  });

  it('that asks what nobody can be asked is nobody, and says why', () => {
    for (const [condition, reason] of [
      ["parish = 'Saltby'", /there is no column parish/],
      [":member.owners.district = 'x'", /district/],
      [":member.shoes = 'x'", /a member has no shoes/],
      [":today = '2026-11-26'", /known of the member/],
      [':member.owners.parish = 5', /is text and can't be compared with 5/],
    ] as const) {
      expect(audienceProblems(when(condition), wellsCatalogue).join()).toMatch(reason);
      const pages = [page('p', { roles: 'everyone', where: when(`${condition} OR TRUE = TRUE`) })];
      expect(got(pages, person(['owner'], { owners: { id: 1, parish: 'Saltby' } }))).toEqual([]);
    }
  });
});
