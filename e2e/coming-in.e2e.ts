import { demoDefinition } from '../demo/definition';
import { expect } from './expect';
import { bareFen, choose, expectAccessible, openMail, plainSql, seeAs, signInAsBuilder, test } from './steps';

const slug = 'fen-door';
const bench = `/build/${slug}`;
const ines = 'ines.brannock@example.org';
const good = 'well past the alders at dawn';

test.describe.configure({ mode: 'serial' });

test('people come in when the builder says so: refresh, seen by, invite, first sign-in, their records', async ({
  page,
  browser,
  baseURL,
}) => {
  await signInAsBuilder(page);
  await bareFen(page, slug);
  const definition = { ...demoDefinition('alder_fen'), portal: { ...demoDefinition('alder_fen').portal, slug } };
  const asBuilder = { 'x-stone-porch': 'test' };
  const at = `/api/builder/portals/${slug}`;
  expect((await page.request.put(`${at}/definition`, { headers: asBuilder, data: definition })).status()).toBe(200);

  await page.goto(`${bench}/people/members`);
  await page.getByRole('button', { name: 'Refresh from the rosters' }).click();
  await expect(page.getByText('No mail was sent.')).toBeVisible();
  for (const [name, table] of [
    ['Ines Brannock', 'wells'],
    ['Mara Lindqvist', 'visits'],
  ] as const) {
    await page.goto(`${bench}/access/${table}`);
    await seeAs(page, name);
    await expect(page.getByTestId('seen-count')).toContainText(name);
  }
  await page.goto(`${bench}/people/~outbox`);
  await expect(page.getByText('Nothing was sent yet.')).toBeVisible();
  await expectAccessible(page, 'outbox');
  const { revision } = (await (await page.request.get(at)).json()) as { revision: number };
  const published = await page.request.post(`${at}/versions`, { headers: asBuilder, data: { revision, note: '' } });
  expect(published.status()).toBe(201);

  await page.goto(`${bench}/people/members?find=ines.brannock`);
  await page.getByRole('link', { name: 'Ines Brannock' }).click();
  await expect(page.getByText('Known: stands on a roster')).toBeVisible();
  await expectAccessible(page, 'a member');
  await page.getByRole('button', { name: 'Send 1 invitation' }).click();
  await expect(page.getByRole('alertdialog')).toContainText("can't be undone");
  await page.getByRole('alertdialog').getByRole('button', { name: 'Send 1 invitation' }).click();
  await expect(page.getByText('1 invitation on the way.')).toBeVisible();
  await page.goto(`${bench}/people/~invitations`);
  await expect(page.getByRole('button', { name: /Send \d+ invitations/ })).toBeVisible();
  await page.getByRole('button', { name: /^Invitation: / }).click();
  await expect(page.getByLabel('Words, in Markdown')).toBeVisible();
  await expectAccessible(page, 'invitations');

  const member = await (await browser.newContext({ baseURL })).newPage();
  await openMail(member, ines, /^Your access to /);
  await member.getByRole('link', { name: 'Come in' }).click();
  await expect(member.getByText('Welcome, Ines Brannock.')).toBeVisible();
  await expectAccessible(member, 'an invitation');
  const link = member.url();
  await member.getByLabel('New password').fill('too short');
  await member.getByRole('button', { name: 'Come in' }).click();
  await expect(member.getByText('Take 15 characters at least')).toBeVisible();
  await member.getByLabel('New password').fill(good);
  await member.keyboard.press('Enter');
  await expect(member.getByRole('link', { name: 'AF-0419' })).toBeVisible();
  const again = await (await browser.newContext()).newPage();
  await again.goto(link);
  await expect(again.getByText('This link was used already, or has ended.')).toBeVisible();

  // A suspended member's open page is shut.
  await page.goto(`${bench}/people/members?find=ines.brannock`);
  await page.getByRole('link', { name: 'Ines Brannock' }).click();
  await page.getByRole('button', { name: 'Suspend' }).click();
  await page.getByLabel('Why').fill('Asked us to');
  await page.getByRole('dialog').getByRole('button', { name: 'Suspend' }).click();
  await expect(page.getByText('Suspended by Wren Ashby')).toBeVisible();
  await member.getByRole('link', { name: 'AF-0419' }).click();
  await expect(member.getByRole('button', { name: 'Sign in', exact: true })).toBeVisible();
  await page.getByRole('button', { name: 'Let in again' }).click();
  await expect(page.getByText('Suspended by Wren Ashby')).toHaveCount(0);

  // A role that is given by hand holds at the other browser's next click, and so does its end.
  await member.getByLabel('E-mail').fill(ines);
  await member.getByLabel('Password', { exact: true }).fill(good);
  await member.getByRole('button', { name: 'Sign in', exact: true }).click();
  await expect(member.getByRole('link', { name: 'My wells' })).toBeVisible();
  await expect(member.getByRole('link', { name: 'All visits' })).toHaveCount(0);
  await page.getByRole('button', { name: '+ role' }).click();
  await choose(page.getByLabel('Role', { exact: true }), 'Programme desk');
  await page.getByLabel('Why').fill('Helps out this week');
  await page.getByRole('button', { name: 'Give the role' }).click();
  await expect(page.getByText('Helps out this week')).toBeVisible();
  await member.reload();
  await expect(member.getByRole('link', { name: 'All visits' })).toBeVisible();
  await page.getByRole('button', { name: /^Take back/ }).click();
  await expect(page.getByText('None: their rows give all they have.')).toBeVisible();

  // Whose row goes is out.
  const sql = await plainSql(baseURL!);
  try {
    await sql.query(`UPDATE alder_fen.owners SET email = 'gone@example.org' WHERE email = '${ines}'`);
    await member.reload();
    await expect(member.getByRole('button', { name: 'Sign in', exact: true })).toBeVisible();
  } finally {
    await sql.query(`UPDATE alder_fen.owners SET email = '${ines}' WHERE email = 'gone@example.org'`);
    await sql.end();
  }
});

test('a code by e-mail lets in, and a forgotten password is chosen anew, by the keyboard and on a phone', async ({
  page,
  browser,
  baseURL,
}) => {
  await signInAsBuilder(page);
  await page.goto(`${bench}/people/members`);
  await page.getByRole('button', { name: 'Refresh from the rosters' }).click();
  await expect(page.getByText(/0 came, [01] changed, 0 went/)).toBeVisible();
  await page.goto(`${bench}/people/~signing-in`);
  // What stands in the draft is ticked once the draft has it.
  await page.getByLabel('Code by e-mail').click();
  await expect(page.getByLabel('Code by e-mail')).toBeChecked();
  await page.getByRole('button', { name: /^Code to sign in: / }).click();
  await expectAccessible(page, 'signing in');
  await expect(page.getByText(/change since v1/)).toBeVisible();
  const at = `/api/builder/portals/${slug}`;
  const { revision } = (await (await page.request.get(at)).json()) as { revision: number };
  const data = { revision, note: '' };
  expect((await page.request.post(`${at}/versions`, { headers: { 'x-stone-porch': 'test' }, data })).status()).toBe(
    201,
  );

  const mara = 'mara.lindqvist@example.org';
  const member = await (await browser.newContext({ baseURL, viewport: { width: 360, height: 740 } })).newPage();
  await member.goto(`/p/${slug}/~sign-in`);
  await member.getByRole('button', { name: 'Sign in by a code' }).press('Enter');
  await member.getByLabel('E-mail').fill(mara);
  await member.keyboard.press('Enter');
  await expect(member.getByText(`If ${mara} is known here, a code is on its way to it.`)).toBeVisible();
  await expect(member.getByLabel('Code')).toBeFocused();
  await expectAccessible(member, 'typing a code');
  const mails = await member.context().newPage();
  await openMail(mails, mara, /is your code/);
  const code = /\d{6}/.exec(await mails.getByRole('heading', { level: 1 }).first().innerText())![0];
  await member.getByLabel('Code').fill('12 34 5');
  await member.keyboard.press('Enter');
  await expect(member.getByRole('alert')).toContainText('The code is wrong');
  await member.getByLabel('Code').fill(code);
  await member.keyboard.press('Enter');
  await expect(member.getByRole('navigation').first()).toBeVisible();

  const other = await (await browser.newContext({ baseURL })).newPage();
  await other.goto(`/p/${slug}/~sign-in`);
  await other.getByRole('button', { name: 'Forgotten it?' }).click();
  await other.getByLabel('E-mail').fill(mara);
  await other.getByRole('button', { name: 'Send me a link' }).click();
  await expect(other.getByText('a link to a new password is on its way')).toBeVisible();
  await openMail(other, mara, /A new password for/);
  await other.getByRole('link', { name: 'Choose a new password' }).click();
  await other.getByLabel('New password').fill(good);
  await other.getByRole('button', { name: 'Come in' }).click();
  await expect(other.getByRole('navigation').first()).toBeVisible();
  // The session that was there ends with the old password.
  await member.reload();
  await expect(member.getByRole('link', { name: 'Sign in', exact: true })).toBeVisible();
});
