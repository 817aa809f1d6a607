import type { Page } from '@playwright/test';
import { expect } from './expect';
import { choose, expectAccessible, openMail, plainSql, signIn, signInAsBuilder, test } from './steps';

const asWeb = { 'x-stone-porch': 'test' };

/** Changes the demo's draft and publishes it. */
async function publishWith(page: Page, change: (definition: any) => void): Promise<void> {
  const at = '/api/builder/portals/alder-fen';
  const { draft } = (await (await page.request.get(at)).json()) as { draft: object };
  change(draft);
  expect((await page.request.put(`${at}/definition`, { headers: asWeb, data: draft })).status()).toBe(200);
  const { revision } = (await (await page.request.get(at)).json()) as { revision: number };
  const published = await page.request.post(`${at}/versions`, { headers: asWeb, data: { revision, note: '' } });
  expect(published.status()).toBe(201);
}

test.describe.configure({ mode: 'serial' });

test('a steward looks after the people of a parish: adds, changes, invites and shuts out, on a phone', async ({
  page,
  browser,
  baseURL,
}) => {
  await signIn(page, 'anton.wray@example.org', '/p/alder-fen/parish');
  await expect(page.getByText(/^25 of \d+ people$/)).toBeVisible();
  await expectAccessible(page, 'people looked after');
  await page.setViewportSize({ width: 390, height: 780 });
  await page.getByRole('button', { name: 'Add somebody' }).click();
  const dialog = page.getByRole('dialog');
  await dialog.getByLabel('Name').fill('Thora Newell');
  await dialog.getByLabel('E-mail').fill('ines.brannock@example.org');
  await dialog.getByLabel('Postal address').fill('3 Fen Lane');
  await dialog.getByRole('button', { name: 'Add', exact: true }).click();
  await expect(dialog.getByText("This address can't be used for somebody here.")).toBeVisible();
  await expectAccessible(page, 'adding somebody');
  await dialog.getByLabel('E-mail').fill('thora@example.org');
  await dialog.getByRole('button', { name: 'Add', exact: true }).click();
  await expect(page.getByText('Added. Nothing was sent to them yet.')).toBeVisible();
  await page.getByLabel('Find in people').fill('Thora');
  await page.getByLabel('Find in people').press('Enter');
  const line = page.getByRole('listitem').filter({ hasText: 'Thora Newell' });
  await expect(line).toContainText('Known');
  await line.getByRole('button', { name: 'What to do for Thora Newell' }).click();
  await page.getByRole('menuitem', { name: 'Invite …' }).click();
  await expect(page.getByText('It can’t be called back.')).toBeVisible();
  await page.getByRole('button', { name: 'Invite Thora Newell' }).click();
  await expect(page.getByText('Thora Newell: the invitation is on its way.')).toBeVisible();
  await expect(line).toContainText('Invited');

  const member = await (await browser.newContext({ baseURL })).newPage();
  await openMail(member, 'thora@example.org', /^Your access to /);
  await member.getByRole('link', { name: 'Come in' }).click();
  await member.getByLabel('New password').fill('well past the alders at dawn');
  await member.keyboard.press('Enter');
  await expect(member.getByRole('link', { name: 'My wells' }).first()).toBeVisible();
  // What the steward writes is there at the member's next look.
  await page.getByRole('link', { name: 'Thora Newell' }).click();
  await page.getByLabel('Phone').fill('01632 000001');
  await page.getByRole('button', { name: 'Save 1 change' }).click();
  await expect(page.getByText('Saved.')).toBeVisible();
  await member.getByRole('link', { name: 'My details' }).first().click();
  await expect(member.getByLabel('Phone')).toHaveValue('01632 000001');
  await page.getByRole('link', { name: 'List' }).click();
  await line.getByRole('button', { name: 'What to do for Thora Newell' }).click();
  await page.getByRole('menuitem', { name: 'Suspend …' }).click();
  await page.getByLabel('Why').fill('Moved away');
  await page.getByRole('button', { name: 'Suspend Thora Newell' }).click();
  await expect(line).toContainText('Suspended');
  await member.getByRole('link', { name: 'My wells' }).first().click();
  await expect(member.getByRole('button', { name: 'Sign in', exact: true })).toBeVisible();
});

test('a role that a steward gives by a column holds at the other browser’s next click', async ({
  page,
  browser,
  baseURL,
}) => {
  await signInAsBuilder(page);
  await publishWith(page, (definition) => {
    const steward = definition.stewards.find(({ id }: { id: string }) => id === 'lab-couriers');
    Object.assign(steward, { roles: ['lab_chemist', 'lab_courier'], changes: ['kind'] });
  });
  await page.goto('/build/alder-fen/people/~stewards?rule=lab-couriers');
  await expect(page.getByText('looks after Lab chemist and Lab courier of lab staff')).toBeVisible();
  await expectAccessible(page, 'stewards');
  const sql = await plainSql(baseURL!);
  try {
    const [courier] = await sql.query<{ name: string; email: string; lab_id: number }[]>(
      "SELECT name, email, lab_id FROM lab_staff WHERE kind = 'courier' ORDER BY id LIMIT 1",
    );
    const [lead] = await sql.query<{ email: string }[]>(
      `SELECT email FROM lab_staff WHERE leads AND lab_id = ${courier!.lab_id}`,
    );
    const member = await (await browser.newContext({ baseURL })).newPage();
    await signIn(member, courier!.email);
    await expect(member.getByRole('link', { name: 'Pick-ups' }).first()).toBeVisible();
    const desk = await (await browser.newContext({ baseURL })).newPage();
    await signIn(desk, lead!.email, '/p/alder-fen/couriers');
    await desk.getByRole('link', { name: courier!.name }).click();
    await choose(desk.getByLabel('Kind'), 'chemist');
    await desk.getByRole('button', { name: 'Save 1 change' }).click();
    await expect(desk.getByText('Saved.')).toBeVisible();
    await member.reload();
    await expect(member.getByRole('link', { name: 'Bottles' }).first()).toBeVisible();
    await expect(member.getByRole('link', { name: 'Pick-ups' })).toHaveCount(0);
  } finally {
    await sql.end();
  }
});

test('visits are handed over, counted by plain SQL, and taken back; the weekly plan is brought as a file', async ({
  page,
  baseURL,
  browser,
}) => {
  const sql = await plainSql(baseURL!);
  const open = async () => {
    const [row] = await sql.query<{ c: bigint }[]>(
      "SELECT COUNT(*) c FROM visits WHERE sampler_id = 9 AND state IN ('asked', 'planned')",
    );
    return Number(row!.c);
  };
  try {
    const before = await open();
    await signIn(page, 'odile.fennimore@example.org', '/p/alder-fen/leaving');
    const pick = async (label: string, name: string) => {
      await page.getByRole('combobox', { name: label }).fill(name);
      await page.getByRole('option', { name }).click();
    };
    await pick('From', 'Mara Lindqvist');
    await expect(page.getByText(`Mara Lindqvist has ${before} visits.`)).toBeVisible();
    await pick('To', 'Hale Thackray');
    await expectAccessible(page, 'handing over');
    await page.getByRole('button', { name: 'Hand over …' }).click();
    await page.getByRole('button', { name: 'Hand over to Hale Thackray' }).click();
    await expect(page.getByText(`${before} visits from Mara Lindqvist went to Hale Thackray.`)).toBeVisible();
    expect(await open()).toBe(0);
    await page.getByRole('button', { name: 'Take back' }).click();
    await expect(page.getByText(`${before} records taken back`)).toBeVisible();
    expect(await open()).toBe(before);

    const [well] = await sql.query<{ code: string }[]>("SELECT MIN(code) code FROM wells WHERE parish = 'Harrow End'");
    const steward = await (await browser.newContext({ baseURL })).newPage();
    await signIn(steward, 'anton.wray@example.org', '/p/alder-fen/week');
    await steward.getByRole('button', { name: 'Bring a file …' }).click();
    const csv = `well;planned for;asked on\n${well!.code};2027-01-04;2026-11-20\nAF-9999;2027-01-05;2026-11-20\n`;
    await steward
      .getByLabel('File', { exact: true })
      .setInputFiles({ name: 'week.csv', mimeType: 'text/csv', buffer: Buffer.from(csv) });
    await expect(steward.getByLabel('Where well goes')).toHaveText('Well');
    await steward.getByRole('button', { name: 'Look what would change' }).click();
    await expect(steward.getByRole('region', { name: 'Refused records' })).toContainText(
      'No record of wells has this code.',
    );
    await expectAccessible(steward, 'bringing the weekly plan');
    await steward.getByRole('button', { name: 'Add 1, without the 1 refused' }).click();
    await expect(steward.getByText('Done: 1 record added, 1 record refused in Visits.')).toBeVisible();
  } finally {
    await sql.end();
  }
});

test('somebody new comes in by a link: a domain, an approver, and a row of the roster', async ({
  page,
  browser,
  baseURL,
}) => {
  await signInAsBuilder(page);
  await publishWith(page, (definition) => {
    definition.signUps[0].domains = ['example.net'];
  });
  await page.goto('/build/alder-fen/people/~sign-up?rule=harrow-end');
  await expect(page.getByText('Whoever comes by it is Well owner.')).toBeVisible();
  await expect(page.getByLabel('Who must agree')).toHaveText('Programme desk');
  await page.getByLabel('Send it to these addresses').fill('asked@example.net\nines.brannock@example.org');
  await page.getByRole('button', { name: 'Send 2 mails' }).click();
  await page.getByRole('alertdialog').getByRole('button', { name: 'Send 2 mails' }).click();
  await expect(page.getByText('1 mail on the way.')).toBeVisible();
  await expect(page.getByText('ines.brannock@example.org: not of its domains')).toBeVisible();
  await expectAccessible(page, 'sign-up on the bench');
  const link = new URL((await page.getByText(/\/sign-up#/).textContent())!);
  const guest = await (await browser.newContext({ baseURL })).newPage();
  await guest.goto(link.pathname + link.hash);
  await expect(guest.getByRole('heading', { name: 'For well owners of Harrow End' })).toBeVisible();
  await expectAccessible(guest, 'signing up');
  await guest.getByLabel('E-mail').fill('wilma@example.org');
  await guest.getByRole('button', { name: 'Ask to come in' }).click();
  await expect(guest.getByText('Only addresses of example.net come in by this link.')).toBeVisible();
  await guest.getByLabel('E-mail').fill('wilma@example.net');
  await guest.getByLabel('Name').fill('Wilma Newcome');
  await guest.getByLabel('Postal address').fill('4 Fen Lane');
  await guest.getByRole('button', { name: 'Ask to come in' }).click();
  await expect(guest.getByText('A mail is on its way to')).toBeVisible();
  await openMail(guest, 'wilma@example.net', /Is this your address/);
  await guest.getByRole('link', { name: 'Yes, it is mine' }).click();
  await guest.getByRole('button', { name: 'Yes, this is my address' }).click();
  await expect(guest.getByText('Somebody looks at your request now')).toBeVisible();
  const desk = await (await browser.newContext({ baseURL })).newPage();
  await signIn(desk, 'odile.fennimore@example.org', '/p/alder-fen/requests');
  await expect(desk.getByText('wilma@example.net').first()).toBeVisible();
  await expectAccessible(desk, 'requests');
  await desk.getByRole('button', { name: 'Let in wilma@example.net' }).click();
  await desk.getByRole('alertdialog').getByRole('button', { name: 'Let in' }).click();
  await expect(desk.getByText('Nobody waits for an answer.')).toBeVisible();
  await openMail(guest, 'wilma@example.net', /You can come in at/);
  await guest.getByRole('link', { name: 'Come in' }).click();
  await guest.getByLabel('New password').fill('well past the alders at dawn');
  await guest.keyboard.press('Enter');
  await expect(guest.getByRole('link', { name: 'My wells' }).first()).toBeVisible();
  const sql = await plainSql(baseURL!);
  try {
    expect(await sql.query("SELECT name, parish FROM owners WHERE email = 'wilma@example.net'")).toMatchObject([
      { name: 'Wilma Newcome', parish: 'Harrow End' },
    ]);
  } finally {
    await sql.end();
  }
});

test('a portal is opened to a domain, and somebody with an address of it comes in without a row', async ({
  page,
  browser,
  baseURL,
}) => {
  await signInAsBuilder(page);
  await page.goto('/build/alder-fen/people/roles');
  await page.getByLabel('New role').fill('Friend of the fen');
  await page.getByRole('button', { name: 'Add', exact: true }).click();
  await page.getByLabel('Friend of the fen also without a row').click();
  await expect(page.getByLabel('Friend of the fen also without a row')).toBeChecked();
  await expectAccessible(page, 'roles');
  await page.goto('/build/alder-fen/people/~sign-up');
  const open = page.getByRole('region', { name: 'Open to domains' });
  await open.getByLabel('Whoever has an address of').fill('gmail.com, friends.example.net');
  await page.keyboard.press('Tab');
  await open.getByLabel('Friend of the fen').click();
  await expect(open.getByLabel('Friend of the fen')).toBeChecked();
  await expectAccessible(page, 'open to domains');
  await page.goto('/build/alder-fen/check');
  await expect(
    page.getByText('Open to domains: anybody can get an address of gmail.com', { exact: true }),
  ).toBeVisible();
  await publishWith(page, (definition) => {
    definition.openTo.domains = ['friends.example.net'];
    definition.pages[0].audience = { roles: 'everyone' };
  });
  const friend = await (await browser.newContext({ baseURL })).newPage();
  await friend.goto('/p/alder-fen/~sign-in');
  await friend.getByRole('link', { name: 'Come in' }).click();
  await expect(friend.getByRole('heading', { name: 'Come in for the first time' })).toBeVisible();
  await expectAccessible(friend, 'coming in by a domain');
  await friend.getByLabel('E-mail').fill('fern@gmail.com');
  await friend.keyboard.press('Enter');
  await expect(friend.getByText('Only addresses of friends.example.net come in this way.')).toBeVisible();
  await friend.getByLabel('E-mail').fill('fern@friends.example.net');
  await friend.keyboard.press('Enter');
  await expect(friend.getByText('A mail is on its way to')).toBeVisible();
  await openMail(friend, 'fern@friends.example.net', /Is this your address/);
  await friend.getByRole('link', { name: 'Yes, it is mine' }).click();
  await friend.getByRole('button', { name: 'Yes, this is my address' }).click();
  await friend.getByLabel('New password').fill('well past the alders at dawn');
  await friend.keyboard.press('Enter');
  await expect(friend.getByRole('button', { name: /fern@friends.example.net/ })).toBeVisible();
  await page.goto('/build/alder-fen/people/members');
  await page.getByRole('searchbox').fill('fern@');
  await page.getByRole('link', { name: 'fern@friends.example.net' }).click();
  await expect(page.getByText('They came in by a domain that the portal is open to')).toContainText(
    'Friend of the fen',
  );
});
