import { readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import jsonPatch from 'fast-json-patch';
import fc from 'fast-check';
import { afterAll, beforeAll, describe, expect, inject, it } from 'vitest';
import { demoDefinition } from '../../demo/definition';
import { freshSchema } from '../../test/tables';
import type { PortalDefinition } from '../../core/definition/definition';
import format1 from '../../core/definition/upgrade/format-1.json';
import { readDefinition } from '../../sections/definition';
import { upgradeKept } from '../drafts/upgrade-kept';
import { DraftEdit, Portal, Version } from '../store/models';
import { openStore, type Store } from '../store/store';
import { migrate } from '../store/migrations';
import { changeDraft, draftState, stepDraft } from '../drafts/draft';

let store: Store;
let portal: Portal;
const start = demoDefinition('drafts');

beforeAll(async () => {
  await (await freshSchema(inject('database'), 'drafts_own')).end();
  store = await openStore(inject('database'), 'drafts_own');
  portal = await Portal.create({
    slug: 'alder-fen',
    draft: JSON.stringify(start),
    revision: 1,
    publishedVersion: null,
  });
});

afterAll(async () => store?.close());

const nobody = () => Promise.resolve();
const plainly = (definition: PortalDefinition) => JSON.parse(JSON.stringify(definition)) as PortalDefinition;

const rename = (revision: number, name: string) =>
  changeDraft(
    store.sequelize,
    portal.id,
    null,
    revision,
    `Call it ${name}`,
    [{ op: 'replace', path: '/portal/name', value: name }],
    'no change',
  );

describe('drafts', () => {
  it('let one of many edits on the same revision through and lose none silently', async () => {
    const { revision } = await draftState(await portal.reload());
    const outcomes = await Promise.allSettled(Array.from({ length: 6 }, (_, i) => rename(revision, `Name ${i}`)));
    const won = outcomes.filter((outcome) => outcome.status === 'fulfilled');
    expect([won.length, (await portal.reload()).revision]).toEqual([1, revision + 1]);
    for (const outcome of outcomes)
      if (outcome.status === 'rejected') expect((outcome.reason as { type: string }).type).toBe('draft-changed');
    await stepDraft(store.sequelize, portal.id, 1, 'undo', nobody);
  });

  it('come back to every earlier state by undo and forward by redo, whatever was edited', async () => {
    const edits = fc.array(
      fc.oneof(
        fc.constantFrom('A', 'B').map((value) => ({ op: 'replace' as const, path: '/portal/name', value })),
        fc.nat({ max: 1 }).map((i) => ({ op: 'replace' as const, path: `/roles/${i}/name`, value: `Role ${i}` })),
        fc.constant({ op: 'remove' as const, path: '/pages/0' }),
        fc
          .constantFrom('e-mail', 'Phone')
          .map((label) => ({ op: 'add' as const, path: '/tables/wells/label', value: label })),
      ),
      { minLength: 1, maxLength: 5 },
    );
    await fc.assert(
      fc.asyncProperty(edits, async (list) => {
        await DraftEdit.destroy({ where: {} });
        await portal.reload();
        await portal.update({ draft: JSON.stringify(start) });
        const states = [plainly(start)];
        for (const patch of list) {
          const state = await changeDraft(
            store.sequelize,
            portal.id,
            null,
            (await portal.reload()).revision,
            'Edit',
            [patch],
            'no change',
          );
          if (JSON.stringify(state.draft) !== JSON.stringify(states.at(-1))) states.push(plainly(state.draft));
        }
        for (const state of states.slice(0, -1).toReversed())
          expect((await stepDraft(store.sequelize, portal.id, 1, 'undo', nobody)).draft).toEqual(state);
        await expect(stepDraft(store.sequelize, portal.id, 1, 'undo', nobody)).rejects.toThrow('nothing to undo');
        for (const state of states.slice(1))
          expect((await stepDraft(store.sequelize, portal.id, 1, 'redo', nobody)).draft).toEqual(state);
        await expect(stepDraft(store.sequelize, portal.id, 1, 'redo', nobody)).rejects.toThrow('nothing to redo');
      }),
      { numRuns: 12 },
    );
  });

  it('take no half of a patch, and nothing that reaches beside the document', async () => {
    const { revision, draft } = await draftState(await portal.reload());
    const attempt = (patch: object[]) =>
      changeDraft(store.sequelize, portal.id, null, revision, 'Bad', patch as never, 'no change').then(
        () => 'done',
        (error: Error) => error.message,
      );
    expect(
      await attempt([
        { op: 'replace', path: '/portal/name', value: 'Half' },
        { op: 'remove', path: '/no/such/place' },
      ]),
    ).toContain('Step 2 of the change does not fit');
    expect(
      await attempt([
        { op: 'replace', path: '/portal/name', value: 'Half' },
        { op: 'replace', path: '/roles', value: 1 },
      ]),
    ).toContain('/roles');
    expect(await attempt([{ op: 'add', path: '/__proto__/polluted', value: true }])).not.toBe('done');
    expect(await attempt([{ op: 'replace', path: '/portal/slug', value: 'elsewhere' }])).toContain("can't be changed");
    expect(({} as { polluted?: boolean }).polluted).toBeUndefined();
    expect(await draftState(await portal.reload())).toMatchObject({ revision, draft });
  });

  it('that were kept in an older format are brought up with what can be undone and what was published', async () => {
    const old = structuredClone(format1) as unknown as PortalDefinition;
    old.portal.slug = 'older';
    const renamed = { ...old, portal: { ...old.portal, name: 'Older' } };
    const older = await Portal.create({
      slug: 'older',
      draft: JSON.stringify(renamed),
      revision: 4,
      publishedVersion: 1,
    });
    const step = { portalId: older.id, label: 'Call it Older', undone: false, builderId: null, madeAt: new Date() };
    await DraftEdit.create({
      ...step,
      forward: JSON.stringify(jsonPatch.compare(old, renamed)),
      backward: JSON.stringify(jsonPatch.compare(renamed, old)),
    });
    const version = {
      portalId: older.id,
      number: 1,
      note: '',
      publishedBy: 'x',
      publishedAt: new Date(),
      outdated: null,
    };
    await Version.create({ ...version, document: JSON.stringify(old) });
    await upgradeKept(store.sequelize);
    const state = await draftState(await older.reload());
    expect([state.revision, state.draft, state.undo]).toEqual([5, readDefinition(renamed), 'Call it Older']);
    const [kept] = await Version.findAll({ where: { portalId: older.id } });
    expect(JSON.parse(kept!.document)).toEqual(readDefinition(old));
    const undone = await stepDraft(store.sequelize, older.id, 1, 'undo', nobody);
    expect(undone.draft).toEqual(readDefinition(old));
    // Once is enough: what is kept since then is of today's format.
    await older.update({ draft: JSON.stringify(old) });
    await upgradeKept(store.sequelize);
    expect(JSON.parse((await older.reload()).draft)).toEqual(old);
    await older.destroy();
  });

  it('are there after migrating again, which changes nothing', async () => {
    await migrate(store.sequelize);
    expect(await Portal.count()).toBe(1);
  });
});

describe('the one gate', () => {
  it("is the only place with SQL, but for the product's own tables in files named here", () => {
    const own = new Set([
      'files/stored-file.ts',
      'store/prepared.ts',
      'store/migrations.ts',
      'store/people-sql.ts',
      'store/door-sql.ts',
      'store/rights-revision.ts',
      'store/shape-lease.ts',
      'files/column-files.ts',
      'shaping/shape-changes.ts',
      'store/call-sql.ts',
      'store/press-sql.ts',
      'store/bench-sql.ts',
      'store/key-sql.ts',
      'store/json-sql.ts',
      'store/roles-sql.ts',
      'store/first-migrations.ts',
      'visits/member-visit.ts',
      'connections/schemas.ts',
      'sessions/limiter-client.ts',
      'sources/asked-source.ts',
      'sources/mariadb.ts',
      'sources/mariadb-transaction.ts',
      'sources/mariadb-catalogue.ts',
      'sources/source.ts',
      'sources/postgres.ts',
      'sources/postgres-catalogue.ts',
      'sources/try-connection.ts',
    ]);
    const folder = join(import.meta.dirname, '..');
    const found = readdirSync(folder, { recursive: true, encoding: 'utf8' })
      .filter((file) => file.endsWith('.ts') && !/\.(test|fixture)\.ts$/.test(file) && !file.startsWith('gate/'))
      .filter((file) =>
        /\.(query|execute|rows|write)\(|\b(SELECT|UPDATE|INSERT INTO|DELETE FROM) [A-Z`*a-z]/.test(
          readFileSync(join(folder, file), 'utf8'),
        ),
      );
    expect(found.filter((file) => !own.has(file))).toEqual([]);
    expect(found.length).toBeGreaterThan(4);
  });
});
