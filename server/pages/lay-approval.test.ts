import type { Connection } from 'mariadb';
import type { Condition } from '../../core/condition/tree';
import { afterAll, beforeAll, expect, inject, it } from 'vitest';
import { emptyDefinition, type PortalDefinition } from '../../core/definition/definition';
import { findTable } from '../../core/table/catalogue';
import type { ListSection } from '../../sections/list/spec';
import { findFaults, readDefinition } from '../../sections/definition';
import { approvalProblem, firstState, guessedApproval, layApproval } from '../../sections/lay-approval';
import { freshSchema } from '../../test/tables';
import { when } from '../../test/wells';
import { MariadbSource } from '../sources/mariadb';
import { act, list, edit, type Leaving, type Visit } from '../gate/gate';

/** An approval that is laid down in one press, lived through by an author, an editor and whoever passes by. */

let plain: Connection;
let source: MariadbSource;
let definition: PortalDefinition;
const left: Leaving[] = [];

beforeAll(async () => {
  plain = await freshSchema(inject('database'), 'approve');
  await plain.query(
    'CREATE TABLE notices (id INT AUTO_INCREMENT PRIMARY KEY, title VARCHAR(80) NOT NULL, author_email VARCHAR(80), ' +
      "stage ENUM('draft', 'submitted', 'published', 'withdrawn') NOT NULL DEFAULT 'draft', remark VARCHAR(200))",
  );
  await plain.query(
    "INSERT INTO notices (title, author_email, stage) VALUES ('One', 'ada@example.org', 'draft'), " +
      "('Two', 'ada@example.org', 'published'), ('Three', 'bo@example.org', 'draft')",
  );
  source = new MariadbSource(inject('database'), 'approve', 4);
  const catalogue = await source.catalogue();
  const columns = ['id', 'title', 'author_email', 'stage', 'remark'];
  const own = when('author_email = :member.email');
  definition = {
    ...emptyDefinition({ slug: 'approve', name: 'Approve', timeZone: 'UTC', colour: '#1f5f85' }, 'approve'),
    roles: [
      { id: 'author', name: 'Author' },
      { id: 'editor', name: 'Editor' },
      { id: 'passer', name: 'Passer-by', for: 'visitors' },
    ],
    access: {
      notices: {
        author: {
          see: { where: own, columns },
          edit: { where: 'as seen', columns: ['title'] },
        },
        editor: { see: { where: 'every row', columns } },
        passer: { see: { where: 'every row', columns: ['title'] } },
      },
    },
  };
  const table = findTable(catalogue, 'notices')!;
  const guessed = guessedApproval(definition, table, firstState(definition, table)!);
  expect(guessed).toMatchObject({
    begins: 'draft',
    submitted: 'submitted',
    approved: 'published',
    submitters: ['author'],
    approvers: ['editor'],
    readers: ['passer'],
    reason: 'remark',
  });
  expect(approvalProblem(guessed)).toBeNull();
  expect(approvalProblem({ ...guessed, approved: 'draft' })).toBe('The three states must be three.');
  layApproval(definition, catalogue, table, { ...guessed, writesTo: ['author_email'] });
  definition = readDefinition(JSON.parse(JSON.stringify(definition)));
  const faults = findFaults(definition, catalogue, [], null, []).filter(({ severity }) => severity === 'broken');
  expect(faults).toEqual([]);
});

afterAll(async () => {
  await source?.close();
  await plain?.end();
});

async function as(role: string, email: string | null): Promise<Visit> {
  return {
    definition,
    catalogue: await source.catalogue(),
    person: { kind: email ? 'member' : 'visitor', id: null, email, organisation: null, roles: [role], rows: {} },
    moment: new Date(),
    leaver: () => ({
      hold: (leaving) => {
        left.push(leaving);
        return Promise.resolve(null);
      },
      keep: () => Promise.resolve(),
      drop: () => Promise.resolve(),
    }),
  };
}

const titles = async (visit: Visit, where: Condition[] = []) => {
  const question = { columns: [['title']], sort: [], where, search: '', after: null, before: null, size: 50 };
  const { records } = await list(source, visit, 'notices', question);
  return records.map(({ values }) => values.title).toSorted();
};

const stage = async (id: number) =>
  (await plain.query<{ stage: string }[]>(`SELECT stage FROM notices WHERE id = ${id}`))[0]!.stage;

it('is submitted, sent back with the reason, submitted again and approved; others see what is approved', async () => {
  const [author, other, editor, passer] = [
    await as('author', 'ada@example.org'),
    await as('author', 'bo@example.org'),
    await as('editor', 'cy@example.org'),
    await as('passer', null),
  ];
  const does = (visit: Visit, id: string, action: string, asked = {}) =>
    act(source, visit, 'notices', id, `${action}-notices`, { asked });
  expect(await titles(passer)).toEqual(['Two']);
  await expect(does(other, '1', 'submit')).rejects.toThrow('no such record');
  await does(author, '1', 'submit');
  expect([await stage(1), left.at(-1)!.mails.map(({ to }) => to)]).toEqual(['submitted', [{ role: 'editor' }]]);
  // What waits is not changed, and not approved by whoever wrote it.
  await expect(edit(source, author, 'notices', '1', { title: { from: 'One', to: 'Won' } })).rejects.toThrow();
  await expect(does(author, '1', 'approve')).rejects.toThrow('no such action');
  const waiting = definition.pages
    .find(({ title }) => title === 'To approve')!
    .sections.find(({ kind }) => kind === 'list');
  const where = (waiting as ListSection).where as Condition;
  expect(await titles(editor, [where])).toEqual(['One']);
  await expect(does(editor, '1', 'send-back')).rejects.toThrow();
  await does(editor, '1', 'send-back', { reason: 'Too short' });
  expect([await stage(1), await titles(editor, [where])]).toEqual(['draft', []]);
  const [mail] = left.at(-1)!.mails;
  expect([mail!.to, mail!.values.remark]).toEqual([{ address: 'ada@example.org' }, 'Too short']);
  await edit(source, author, 'notices', '1', { title: { from: 'One', to: 'One, longer' } });
  await does(author, '1', 'submit');
  await does(editor, '1', 'approve');
  expect([await stage(1), await titles(passer)]).toEqual(['published', ['One, longer', 'Two']]);
  await expect(does(editor, '3', 'approve')).rejects.toThrow("can't be done with this record now");
});
