import type { Locator, Page } from '@playwright/test';
import { expect } from './expect';
import { called, choose, bareFen, cell, plainSql, seeAs, seenCount, signInAsBuilder, test } from './steps';

/** A hand that counts what it does: presses, choices, and texts typed. */
class Hand {
  made = 0;
  constructor(readonly page: Page) {}
  async press(on: Locator): Promise<void> {
    await on.click();
    this.made++;
  }
  async key(keys: string): Promise<void> {
    await this.page.keyboard.press(keys);
    this.made++;
  }
  async choose(on: Locator, value: string): Promise<void> {
    await choose(on, value);
    this.made++;
  }
  async write(on: Locator, text: string): Promise<void> {
    await on.fill(text);
    await on.blur();
    this.made++;
  }
}

test('the rules of the demo are set by the interface alone, and each person then sees what plain SQL says', async ({
  page,
  baseURL,
}) => {
  await signInAsBuilder(page);
  await bareFen(page, 'fen-rules');
  const hand = new Hand(page);
  const used: Record<string, { set: number; went: number }> = {};
  let [shown, went] = ['', 0];
  const role = async (name: string, work: () => Promise<void>) => {
    const id =
      { 'Programme desk': 'desk', 'Parish steward': 'steward', Visitor: 'public' }[name] ??
      name.toLowerCase().replace(' ', '_');
    [shown, went] = [id, 0];
    const before = hand.made;
    await work();
    used[name] = { set: hand.made - before, went };
  };
  /** Goes to a table, or to a screen of rules, with the role in sight. */
  const go = async (place: string, more = '') => {
    await page.goto(`/build/fen-rules/access${place}?roles=${shown}${more}`);
    went++;
  };
  /** Takes a run of stones of one role and lays a level on all of them. */
  const lay = async (name: string, first: string, last: string, level: number) => {
    await hand.press(cell(page, new RegExp(`^${called(first)} for ${name}:`, 'i')));
    await page.keyboard.down('Shift');
    await cell(page, new RegExp(`^${called(last)} for ${name}:`, 'i')).click();
    await page.keyboard.up('Shift');
    await expect(page.getByRole('group', { name: 'Selected stones' })).toBeVisible();
    hand.made++;
    await hand.key(String(level));
    await expect(
      cell(page, new RegExp(`^${called(first)} for ${name}: ${['hidden', 'masked', 'shown', 'editable'][level]}`, 'i')),
    ).toBeVisible();
    await expect(
      cell(page, new RegExp(`^${called(last)} for ${name}: ${['hidden', 'masked', 'shown', 'editable'][level]}`, 'i')),
    ).toBeVisible();
  };

  const stone = (table: string, name: string) => cell(page, new RegExp(`^${called(table)} for ${name}:`, 'i'));
  /** Opens a table's cell and takes one of the filters that are offered. */
  const offered = async (table: string, name: string, words: string | RegExp) => {
    await go(`/${table}`);
    await hand.press(stone(table, name));
    await hand.press(page.getByRole('button', { name: words }));
    await expect(stone(table, name)).toHaveAccessibleName(/see/);
  };
  const press = async (on: Locator, level: string) => {
    await hand.press(on);
    await hand.key(level);
  };
  const asText = async (what: string, text: string) => {
    await hand.press(page.getByRole('button', { name: 'As text' }));
    await hand.write(page.getByLabel(what), text);
  };
  const create = async (name: string) => {
    await hand.press(page.getByRole('group', { name: 'Operation' }).getByRole('button', { name: /^create/ }));
    await hand.choose(page.getByLabel(`Whether ${name} creates`), 'with these columns');
  };

  // Own wells, their visits, and approved results only.
  await role('Well owner', async () => {
    for (const table of ['wells', 'visits', 'results']) {
      await go(`/${table}`);
      await press(stone(table, 'Well owner'), '2');
      await expect(stone(table, 'Well owner')).toHaveAccessibleName(/see/);
    }
    await asText('See filter as text', "state = 'approved' AND sample.visit.well.owner_id = :member.owners.id");
  });
  // Visits assigned or planned by them; the owner's phone, not the account; planned to sampled.
  await role('Sampler', async () => {
    await go('/visits');
    await press(stone('visits', 'Sampler'), '2');
    await asText('See filter as text', 'sampler_id = :member.samplers.id OR planned_by = :member.id');
    await offered('owners', 'Sampler', /^Only where there is at least one of its wells/);
    await press(stone('phone', 'Sampler'), '2');
    await go('/~lifecycles');
    await hand.choose(page.getByLabel('Add a lifecycle of'), 'visits');
    await hand.press(
      page
        .getByRole('listitem', { name: 'Move Sampled' })
        .getByRole('group', { name: 'by', exact: true })
        .getByRole('checkbox', { name: 'Sampler', exact: true }),
    );
  });
  // Samples sent to their lab, and results to write; the owner unknown, the place coarse.
  await role('Lab chemist', async () => {
    await go('/samples');
    await press(stone('samples', 'Lab chemist'), '2');
    await go('/results');
    await press(stone('results', 'Lab chemist'), '3');
    await create('Lab chemist');
    await offered('wells', 'Lab chemist', /^Only where there is at least one of its visits/);
    await press(stone('postcode', 'Lab chemist'), '1');
    await hand.choose(page.getByLabel('what stays'), 'the start of the postcode');
  });
  // Bottle codes and pick-up addresses only.
  await role('Lab courier', async () => {
    await go('/samples');
    await lay('Lab courier', 'visit_id', 'bottle_code', 2);
    await offered('visits', 'Lab courier', /^Only where there is at least one of its samples/);
    await press(stone('well_id', 'Lab courier'), '2');
    await offered('wells', 'Lab courier', /^Only where there is at least one of its visits/);
    await press(stone('address', 'Lab courier'), '2');
  });
  // Everything but the tax number.
  await role('Programme desk', async () => {
    await go('');
    await hand.press(stone('advisories', 'Programme desk'));
    await page.keyboard.down('Shift');
    await stone('wells', 'Programme desk').click();
    await page.keyboard.up('Shift');
    hand.made++;
    await hand.key('2');
    await hand.press(page.getByRole('button', { name: 'Let Programme desk see every row of these 12 tables' }));
    // Of staff, their roster, they got their own row.
    await go('/staff');
    await hand.press(stone('staff', 'Programme desk'));
    await hand.choose(page.getByLabel('Rows that Programme desk sees'), 'every row');
    await go('/owners');
    await press(stone('tax_number', 'Programme desk'), '0');
  });
  // The fee and the last four of the account.
  await role('Accounts', async () => {
    await go('/visits');
    await press(stone('fee', 'Accounts'), '2');
    await hand.press(page.getByRole('button', { name: 'Let Accounts see every row of visits' }));
    await go('/owners');
    await press(stone('iban', 'Accounts'), '1');
    await hand.press(page.getByRole('button', { name: 'Let Accounts see every row of owners' }));
    await hand.choose(page.getByLabel('what stays'), 'the last characters');
  });
  // Owners of one parish, and the weekly plan.
  await role('Parish steward', async () => {
    await offered('owners', 'Parish steward', /^Only where parish is the member's parish in staff/);
    await lay('Parish steward', 'name', 'email', 2);
    await offered('visits', 'Parish steward', /^Only where well's parish is the member's parish in staff/);
    await press(stone('visits', 'Parish steward'), '2');
    await create('Parish steward');
  });
  await role('Visitor', async () => {
    await go('/advisories');
    await hand.press(stone('advisories', 'Visitor'));
    await hand.choose(page.getByLabel('Rows that Visitor sees'), 'rows where …');
    await asText('See filter as text', 'published = TRUE AND (valid_until IS NULL OR valid_until >= :today)');
    await lay('Visitor', 'parish', 'valid_until', 2);
    await go('/test_requests', '&role=public&do=create');
    await hand.choose(page.getByLabel('Whether Visitor creates'), 'with these columns');
    // What a request can't be made without is ticked already.
    for (const column of ['Name', 'Email', 'Parish'])
      await expect(page.getByRole('checkbox', { name: column, exact: true })).toBeChecked();
    await hand.press(page.getByRole('checkbox', { name: 'Message', exact: true }));
  });
  await role('Bottle tracker', async () => {
    await go('/samples');
    await press(stone('bottle_code', 'Bottle tracker'), '2');
    await hand.press(page.getByRole('button', { name: 'Let Bottle tracker see every row of samples' }));
  });
  console.log(
    `interactions a role (and places gone to): ${Object.entries(used)
      .map(([name, { set, went: places }]) => `${name} ${set} (${places})`)
      .join(', ')}`,
  );
  for (const { set } of Object.values(used)) expect(set).toBeLessThan(12);

  // Each person then sees what the demo says, by numbers that plain SQL counts.
  const sql = await plainSql(baseURL!);
  const count = async (text: string) => Number((await sql.query<unknown[][]>({ sql: text, rowsAsArray: true }))[0]![0]);
  const emails = new Map<string, string>();
  const owned =
    "SELECT w.id FROM wells w JOIN owners o ON o.id = w.owner_id WHERE o.email = 'ines.brannock@example.org'";
  const wanted: [string, string, number][] = [
    ['Ines Brannock', 'wells', await count(`SELECT COUNT(*) FROM (${owned}) q`)],
    ['Ines Brannock', 'visits', await count(`SELECT COUNT(*) FROM visits WHERE well_id IN (${owned})`)],
    ['Ines Brannock', 'samples', 0],
    [
      'Mara Lindqvist',
      'visits',
      await count(
        'SELECT COUNT(*) FROM visits v WHERE v.sampler_id = (SELECT id FROM samplers WHERE email = ' +
          "'mara.lindqvist@example.org')",
      ),
    ],
    ['Mara Lindqvist', 'wells', 0],
    [
      'Ines Brannock',
      'results',
      await count(
        `SELECT COUNT(*) FROM results WHERE state = 'approved' AND sample_id IN (SELECT id FROM samples WHERE ` +
          `visit_id IN (SELECT id FROM visits WHERE well_id IN (${owned})))`,
      ),
    ],
    [
      'Mara Lindqvist',
      'owners',
      await count(
        'SELECT COUNT(DISTINCT w.owner_id) FROM visits v JOIN wells w ON w.id = v.well_id JOIN samplers s ON ' +
          "s.id = v.sampler_id WHERE s.email = 'mara.lindqvist@example.org'",
      ),
    ],
    ...(await Promise.all(
      (['Lab chemist', 'Lab courier'] as const).map(async (role): Promise<[string, string, number][]> => {
        const [[name, lab, email]] = await sql.query<[[string, number, string]]>({
          sql:
            'SELECT name, lab_id, email FROM lab_staff WHERE kind = ' +
            `'${role === 'Lab chemist' ? 'chemist' : 'courier'}' ORDER BY id LIMIT 1`,
          rowsAsArray: true,
        });
        emails.set(name, email);
        const sent = `SELECT visit_id FROM samples WHERE lab_id = ${lab}`;
        return [
          [name, 'samples', await count(`SELECT COUNT(*) FROM samples WHERE lab_id = ${lab}`)],
          [name, 'wells', await count(`SELECT COUNT(DISTINCT well_id) FROM visits WHERE id IN (${sent})`)],
          [name, 'owners', 0],
          role === 'Lab chemist'
            ? [
                name,
                'results',
                await count(
                  `SELECT COUNT(*) FROM results WHERE sample_id IN (SELECT id FROM samples WHERE lab_id = ${lab})`,
                ),
              ]
            : [name, 'visits', await count(`SELECT COUNT(*) FROM visits WHERE id IN (${sent})`)],
        ];
      }),
    ).then((found) => found.flat())),
    ['Odile Fennimore', 'results', 45_000],
    ['Odile Fennimore', 'staff', 6],
    ['Odile Fennimore', 'test_requests', await count('SELECT COUNT(*) FROM test_requests')],
    ['Philippa Crane', 'visits', 2600],
    ['Philippa Crane', 'wells', 0],
    ['Anton Wray', 'owners', await count("SELECT COUNT(*) FROM owners WHERE parish = 'Harrow End'")],
    [
      'Anton Wray',
      'visits',
      await count("SELECT COUNT(*) FROM visits v JOIN wells w ON w.id = v.well_id WHERE w.parish = 'Harrow End'"),
    ],
    ['Anton Wray', 'results', 0],
    [
      'a visitor',
      'advisories',
      await count(
        'SELECT COUNT(*) FROM advisories WHERE published AND (valid_until IS NULL OR valid_until >= CURDATE())',
      ),
    ],
    ['a visitor', 'owners', 0],
    ['the service Bottle tracker', 'samples', await count('SELECT COUNT(*) FROM samples')],
    ['the service Bottle tracker', 'owners', 0],
  ];
  const [[account, tax]] = await sql.query<[[string, string]]>({
    sql: 'SELECT iban, tax_number FROM owners WHERE id = 17',
    rowsAsArray: true,
  });
  await sql.end();
  let whom = '';
  await page.goto('/build/fen-rules/access');
  for (const [who, table, rows] of wanted) {
    await page.getByRole('link', { name: new RegExp(`^${called(table)}\\b`, 'i') }).click();
    if (who !== whom) {
      if (who.startsWith('a ') || who.startsWith('the ')) {
        await page.locator('[data-person]').click();
        await page.getByRole('dialog').getByRole('button', { name: who }).click();
      } else await seeAs(page, who, emails.get(who));
    }
    whom = who;
    await expect(seenCount(page)).toContainText(`${rows.toLocaleString('en')} of`);
    await expect(seenCount(page)).toContainText(`rows of ${called(table)} are shown to ${who}`);
  }

  // And in the cells of one owner just what the demo says, whatever is asked for.
  const at = '/api/builder/portals/fen-rules';
  const cells = async (who: string, table: string, id: string) => {
    const { members } = (await (await page.request.get(`${at}/members?search=${encodeURIComponent(who)}`)).json()) as {
      members: { id: number }[];
    };
    const answer = await page.request.get(`${at}/as/${members[0]!.id}/records/${table}/${id}`);
    return answer.status() === 200
      ? ((await answer.json()) as { record: { values: Record<string, unknown>; masked: string[] } }).record
      : null;
  };
  const accounts = (await cells('Philippa Crane', 'owners', '17'))!;
  expect([
    Object.keys(accounts.values),
    String(accounts.values.iban).slice(-4),
    String(accounts.values.iban).includes(account.slice(0, 6)),
    accounts.masked,
  ]).toEqual([['iban'], account.slice(-4), false, ['iban']]);
  const desk = (await cells('Odile Fennimore', 'owners', '17'))!;
  expect([desk.values.iban, 'tax_number' in desk.values, JSON.stringify(desk).includes(tax)]).toEqual([
    account,
    false,
    false,
  ]);
  const district = (await cells('Anton Wray', 'owners', '17'))!;
  expect(Object.keys(district.values)).toEqual(['name', 'email']);
  expect(await cells('Kerstin Vale', 'owners', '17')).toBeNull();
});
