import { firstList, listOf } from '../../test/pages';
import { readDefinition, askedColumns, findFaults } from '../../sections/definition';
import { describe, expect, it } from 'vitest';
import { column, wellsCatalogue, wellsDefinition, when } from '../../test/wells';
import { rolesOf, type KnownPerson } from '../access/people';
import { withAddresses } from '../definition/addresses';
import type { DataFacts } from './empty-findings';
import { mendsOf } from './mends';
import { peopleFacts, type PeopleFacts } from './people-facts';
import { kinds, mistakes, own, sound, strict, type Draft } from './mistakes.fixture';
import { told } from './told-mistakes.fixture';
import { pressing, toldOfActions } from './told-action-mistakes.fixture';
import { toldOfForms } from './told-form-mistakes.fixture';
import { toldOfPages } from './told-page-mistakes.fixture';

describe('findings', () => {
  it('finds each mistake, names its place, and finds nothing in a sound portal', () => {
    const sound = wellsDefinition({
      wells: {
        owner: {
          see: { where: when('owner_id = :member.owners.id'), columns: ['code', 'note'] },
          edit: { where: 'as seen', columns: ['note'] },
        },
      },
    });
    sound.pages = [
      {
        id: 'wells',
        title: 'Wells',
        intro: '',
        audience: { roles: ['owner'] },
        sections: [listOf('wells', ['code'])],
      },
    ];
    const rosters = [{ table: 'owners', rows: 10, withoutEmail: 0, sharedEmail: 0 }];
    expect(findFaults(sound, wellsCatalogue, rosters)).toEqual([]);

    const places = (change: (d: typeof sound) => void, facts = rosters) => {
      const draft = structuredClone(sound);
      change(draft);
      return findFaults(draft, wellsCatalogue, facts).map((finding) => [finding.kind, finding.place]);
    };
    const own = { stage: 'access', table: 'wells', role: 'owner' };
    expect(
      places((d) => {
        d.access.wells!.owner!.see!.where = 'every row';
      }),
    ).toEqual([['everyone reads everything', own]]);
    expect(
      places((d) => {
        d.masks = [{ id: 'm', table: 'wells', column: 'note', mask: { style: 'all' }, to: ['owner'], exceptRoles: [] }];
      }),
    ).toEqual([['masked but editable', { ...own, column: 'note' }]]);
    expect(
      places(() => undefined, [{ table: 'owners', rows: 10, withoutEmail: 1, sharedEmail: 2 }]).map(([kind]) => kind),
    ).toEqual(['no e-mail', 'e-mail used twice']);
    expect(
      places((d) => {
        d.access.wells!.owner!.see!.where = when('vanished = 1');
      }),
    ).toEqual([
      ['filter does not work', own],
      ['page shows nothing', { stage: 'pages', page: 'wells' }],
    ]);
    expect(
      places((d) => {
        d.rosters[0]!.email = 'mail';
      }),
    ).toEqual([['roster does not work', { stage: 'people', table: 'owners', column: 'mail' }]]);
    expect(
      places((d) => {
        firstList(d.pages[0]).columns.push('depth_m');
      }),
    ).toEqual([['page column nobody sees', { stage: 'pages', page: 'wells' }]]);
    // Numbers of what is masked, and numbers that go with a list of another page.
    const numbers = { id: 'n', kind: 'figure', table: 'wells', where: 'every row' } as const;
    expect(
      places((d) => {
        d.access.wells!.owner!.see!.columns = ['code', 'note', 'depth_m'];
        d.masks = [
          { id: 'm', table: 'wells', column: 'depth_m', mask: { style: 'all' }, to: 'everyone', exceptRoles: [] },
        ];
        d.pages[0]!.sections.push(
          { ...numbers, measure: 'count' },
          { ...numbers, id: 'deep', measure: 'maximum', column: 'depth_m' },
          { ...numbers, id: 'lost', measure: 'count', follows: 'visits' },
          { ...numbers, id: 'found', measure: 'count', follows: 'wells' },
        );
      }).toSorted(),
    ).toEqual([
      ['page shows nothing', { stage: 'pages', page: 'wells' }],
      ['section does not work', { stage: 'pages', page: 'wells' }],
    ]);
  });
});

it('an action that needs a file is for one record at a time', () => {
  const draft = sound();
  const asks = [{ id: 'note', table: 'wells', column: 'note', required: true as const }];
  pressing({ several: 'each by itself', asks })(draft);
  const withFile = structuredClone(strict);
  const titles = () => findFaults(draft, withFile, []).map(({ title }) => title);
  const problem = /can't be done: it needs a file, which is for one record, and is done with several at once/;
  expect(titles()).not.toContainEqual(expect.stringMatching(problem));
  withFile.tables.find(({ name }) => name === 'wells')!.columns.find(({ name }) => name === 'note')!.kind = 'file';
  expect(titles()).toContainEqual(expect.stringMatching(problem));
});

describe('mistakes in the rules', () => {
  it.each([...told, ...toldOfPages, ...toldOfActions, ...toldOfForms])(
    '%s, told as %s, and mended by what is offered',
    (kind, words, mistake) => {
      const draft = sound();
      mistake(draft);
      const facts: PeopleFacts = {
        members: { owner: 3, sampler: 1, desk: 3 },
        lacking: [],
        twice: { people: 0, names: [] },
        roleless: { people: 0, names: [] },
        together: [['owner', 'desk']],
      };
      const data = (each: Draft): DataFacts => ({
        away: each.sources ? [{ name: 'lab', reason: 'It does not answer.' }] : [],
        brokenKeys: each.tables.wells?.key ? ['wells'] : [],
        empties: [
          { table: 'wells', column: 'state', rows: 7 },
          { table: 'wells', column: 'note', rows: 2 },
        ],
        nobody: kind === 'nobody gets a row' ? [{ table: 'wells', role: 'owner', people: 3 }] : [],
      });
      const check = (each: Draft) => findFaults(each, strict, [], facts, [], data(each));
      const finding = check(draft).find((each) => each.kind === kind && words.test(each.title));
      expect([kind, check(draft).map((each) => `${each.kind}: ${each.title}`)]).toEqual([
        kind,
        expect.arrayContaining([expect.stringMatching(words)]),
      ]);
      for (const mend of mendsOf(finding!, draft, strict)) {
        const mended = structuredClone(draft);
        mend.change(mended);
        expect(() => readDefinition(JSON.parse(JSON.stringify(mended)))).not.toThrow();
        // A record's address is the catalogue's, which follows the definition.
        const after = findFaults(mended, withAddresses(strict, mended), [], facts, [], data(mended));
        expect(after.filter((each) => each.id === finding!.id)).toEqual([]);
      }
    },
  );

  it('that are none are not named: an OR that still lets rows through, sound negations, exports as seen', () => {
    const draft = sound();
    own(draft).see!.where = when('owner.parish = :member.owners.parish OR sampler_id = :member.samplers.id');
    const person = (id: number, rows: KnownPerson['rows']): KnownPerson => ({
      id,
      name: `Member ${id}`,
      email: `m${id}@example.org`,
      organisation: null,
      rows,
    });
    const facts = peopleFacts(draft, wellsCatalogue, [person(1, { owners: { id: 1, parish: null } })]);
    expect(facts.lacking.map((each) => [each.fact, each.voids])).toEqual([
      ['owners.parish', false],
      ['samplers.id', false],
    ]);
    const [finding] = kinds(draft, strict, facts).filter((each) => each.kind === 'members lack a fact');
    expect(finding!.why).toMatch(
      /the part of the rule that asks it never holds for them; what the rest lets through they get/,
    );
    own(draft).see!.where = when("owner_id = :member.owners.id AND (state <> 'closed' OR state IS NULL)");
    own(draft).export = { where: 'as seen' };
    expect(
      findFaults(draft, strict, [], null, [], {
        empties: [{ table: 'wells', column: 'state', rows: 7 }],
        nobody: [],
        brokenKeys: [],
        away: [],
      }),
    ).toEqual([]);
    // Index advice for a saved query speaks of the table that it reads.
    const query = {
      name: 'open',
      key: [],
      relations: [],
      query: 'SELECT owner_id AS whose, depth_m * 2 AS deep FROM wells',
      columns: [
        { ...column('whose', 'whole number'), from: [{ table: 'wells', column: 'owner_id' }] },
        { ...column('deep', 'decimal'), from: [{ table: 'wells', column: 'depth_m' }] },
      ],
    };
    draft.access.open = { owner: { see: { where: when('whose = :member.owners.id'), columns: ['deep'] } } };
    expect(askedColumns(draft, { ...strict, tables: [...strict.tables, query] })).toContainEqual({
      table: 'wells',
      column: 'owner_id',
    });
    expect(
      askedColumns(draft, { ...strict, tables: [...strict.tables, query] }).some((each) => each.table === 'open'),
    ).toBe(false);
  });

  it('asks for an index where a value is looked for, and not where one column is held against another', () => {
    const draft = sound();
    const asked = (text: string) => {
      own(draft).see!.where = when(text);
      return askedColumns(draft, strict)
        .filter(({ table }) => table === 'wells')
        .map(({ column: name }) => name);
    };
    expect(asked('owner_id = :member.owners.id AND depth_m > 3')).toContain('depth_m');
    expect(asked('owner_id = :member.owners.id AND owner_id <> sampler_id')).toContain('owner_id');
    // MariaDB, EXPLAIN: a comparison of two columns of one row is looked at in every row.
    expect(asked('depth_m > sampler_id')).not.toContain('depth_m');
  });

  it('are none in sound rules', () => {
    expect(kinds(sound())).toEqual([]);
    // What they see; and what nothing that they may write leads to.
    const ruled = sound();
    ruled.tables.wells = {
      rules: [
        { id: 'seen', does: 'required', columns: ['note'], when: when("state = 'closed'") },
        { id: 'apart', does: 'kept', columns: ['code'], when: when('sampler_id = 3') },
      ],
    };
    expect(kinds(ruled)).toEqual([]);
  });

  it.each(mistakes)('%s: named, mended by what is offered, and nothing else comes of the mend', (kind, mistake) => {
    const draft = sound();
    mistake(draft);
    const catalogue =
      kind === 'fence is missing'
        ? {
            ...strict,
            tables: strict.tables.map((table) =>
              table.name === 'visits'
                ? {
                    ...table,
                    columns: [
                      ...table.columns,
                      { ...wellsCatalogue.tables[1]!.columns.find((column) => column.name === 'note')! },
                    ],
                  }
                : table,
            ),
          }
        : strict;
    const found = kinds(draft, catalogue);
    const finding = found.find((each) => each.kind === kind);
    expect(found.map((each) => each.kind)).toContain(kind);
    for (const mend of mendsOf(finding!, draft, catalogue)) {
      const mended = structuredClone(draft);
      mend.change(mended);
      expect(() => readDefinition(JSON.parse(JSON.stringify(mended)))).not.toThrow();
      const after = kinds(mended, catalogue);
      expect(after.filter((each) => each.id === finding!.id)).toEqual([]);
      expect(
        after.filter(
          (each) =>
            !found.some((before) => before.id === each.id) &&
            each.severity === 'leak' &&
            !['everyone reads everything', 'unique column tells'].includes(each.kind),
        ),
      ).toEqual([]);
    }
    expect(mendsOf(finding!, draft, catalogue).length).toBeGreaterThan(0);
  });

  it('that members themselves show: facts they lack, two rosters, a role of nobody, a column without index', () => {
    const draft = sound();
    draft.access.wells!.sampler = {
      see: { where: when('owner.parish = :member.samplers.district'), columns: ['code'] },
    };
    const person = (id: number, rows: KnownPerson['rows']): KnownPerson => ({
      id,
      name: `Member ${id}`,
      email: `m${id}@example.org`,
      organisation: null,
      rows,
    });
    const facts = peopleFacts(draft, wellsCatalogue, [
      person(1, { owners: { id: 1 } }),
      person(2, { samplers: { id: 2, district: null } }),
      person(3, { owners: { id: 3 }, samplers: { id: 3, district: 'Saltby' } }),
    ]);
    expect(facts).toEqual({
      members: { owner: 2, sampler: 2, desk: 0 },
      lacking: [
        { table: 'wells', role: 'sampler', fact: 'samplers.district', people: 1, names: ['Member 2'], voids: true },
      ],
      twice: { people: 1, names: ['Member 3'] },
      roleless: { people: 0, names: [] },
      together: [],
    });
    const found = kinds(draft, wellsCatalogue, { ...facts, members: { owner: 2, sampler: 0, desk: 1 } }, [
      { table: 'wells', column: 'parish' },
    ]).map((each) => [each.kind, each.severity]);
    expect(found).toEqual([
      ['members lack a fact', 'broken'],
      ['member on two rosters', 'leak'],
      ['role without members', 'broken'],
      ['filter column without index', 'slow'],
    ]);
  });

  it(
    'roles by rule: a rule that does not work gives nobody its role, and a row that no rule fits is a member ' +
      'without role',
    () => {
      const draft = sound();
      const byRule = (text: string) => {
        draft.rosters = [
          {
            table: 'owners',
            name: 'name',
            email: 'email',
            roles: [
              { role: 'owner', where: when("parish = 'Saltby'") },
              { role: 'desk', where: when(text) },
            ],
          },
        ];
      };
      const people = [
        ['Saltby', 1],
        ['Oxlode', 2],
        [null, 3],
      ].map(([parish, id]): KnownPerson => ({
        id: Number(id),
        name: `Member ${id}`,
        email: `m${id}@example.org`,
        organisation: null,
        rows: { owners: { id: Number(id), parish: parish! } },
      }));
      const found = () =>
        kinds(draft, wellsCatalogue, peopleFacts(draft, wellsCatalogue, people)).map((each) => each.title);
      byRule("parish IN ('Saltby', 'Oxlode')");
      expect(people.map((each) => rolesOf(draft, wellsCatalogue, each))).toEqual([['owner', 'desk'], ['desk'], []]);
      expect(found()).toEqual(['1 member has no role', 'Nobody is Sampler']);
      for (const [text, reason] of [
        ['parsh = 1', 'there is no column parsh in owners; did you mean parish?'],
        ['email = :member.email', ":member.email can't be used here; compare with a value"],
        ['birth_date < :today', "members and roles don't come and go with the day; compare with a fixed value"],
        [
          "EXISTS (wells WHERE wells.state = 'active')",
          "the row's own columns decide, not records that it is related to",
        ],
      ] as const) {
        byRule(text);
        expect(people.map((each) => rolesOf(draft, wellsCatalogue, each))).toEqual([['owner'], [], []]);
        expect(found()).toContain(`The rule that makes members from owners Desk does not work: ${reason}`);
      }
    },
  );

  it('a ceiling that takes away what is granted, and a label that is masked', () => {
    const draft = sound();
    const low = {
      ...wellsCatalogue,
      tables: wellsCatalogue.tables.map((table) =>
        table.name === 'wells'
          ? { ...table, ceiling: { edit: false as const, columns: { note: 'nothing' as const } } }
          : table,
      ),
    };
    const [finding] = kinds(draft, low).filter((each) => each.kind === 'ceiling makes it void');
    expect(finding!.title).toContain('to edit, note');
    mendsOf(finding!, draft, low)[0]!.change(draft);
    expect(kinds(draft, low)).toEqual([]);
    draft.tables.wells = { titleColumn: 'code' };
    draft.masks = [
      { id: 'm', table: 'wells', column: 'code', mask: { style: 'initials' }, to: ['owner'], exceptRoles: [] },
    ];
    expect(kinds(draft).map((each) => each.kind)).toEqual(['label is masked']);
  });

  it('says nothing of rules that show nothing to whoever has no row', () => {
    const draft = sound();
    draft.roles.push({ id: 'guest', name: 'Guest', withoutRow: true });
    draft.openTo = { domains: ['fen.example.org'], roles: ['guest'] };
    for (const where of [
      'owner_id = :member.owners.id',
      'NOT (owner_id = :member.owners.id)',
      "state = 'active' AND owner_id IN (:member.owners.id)",
      'owner_id = :member.owners.id OR note = :member.organisation',
    ]) {
      draft.access.wells!.guest = { see: { where: when(where), columns: ['code'] } };
      const found = findFaults(draft, strict, []).filter(({ kind }) => kind === 'seen without a row');
      expect([where, found]).toEqual([where, []]);
    }
  });
});
