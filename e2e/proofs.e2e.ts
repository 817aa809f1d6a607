import type { Page } from '@playwright/test';
import { Secret, TOTP } from 'otpauth';
import { expect } from './expect';
import { choose, expectAccessible, openMail, password, signInAsBuilder, test } from './steps';

const ines = 'ines.brannock@example.org';

/** Passkeys hold for a domain, and an address of numbers is none. */
const home = (baseURL: string) => baseURL.replace('127.0.0.1', 'localhost');

async function signInAt(page: Page, address: string, email: string): Promise<void> {
  await page.goto(address);
  await page.getByLabel('E-mail').fill(email);
  await page.getByLabel('Password', { exact: true }).fill(password);
  await page.getByRole('button', { name: 'Sign in', exact: true }).click();
}

const inside = (page: Page) => expect(page.getByRole('link', { name: 'My wells' })).toBeVisible();

async function openOwn(page: Page, name: string): Promise<void> {
  await page.getByRole('button', { name }).click();
  await page.getByRole('menuitem', { name: 'Your sign-in' }).click();
  await expect(page.getByRole('heading', { name: 'Your sign-in' })).toBeVisible();
}

test('single sign-on leads away and back, and says what is wrong', async ({ page, baseURL }) => {
  await page.goto(`${home(baseURL!)}/p/alder-fen/~sign-in`);
  await expectAccessible(page, 'a door with many ways');
  await page.getByRole('link', { name: /demo’s accounts/ }).click();
  await page.getByRole('button', { name: /Ines Brannock/ }).click();
  await inside(page);
  await page.goto(`${home(baseURL!)}/p/alder-fen/~sign-in`);
  await inside(page);

  await page.context().clearCookies({ domain: 'localhost' });
  await page.goto(`${home(baseURL!)}/api/portals/alder-fen/provider/back?code=x&state=y`);
  await expect(page.getByRole('alert')).toContainText('begun in another window or long ago');
});

/** Gives a browser a device that keeps passkeys and opens them by itself (WebAuthn, virtual authenticators). */
async function withAuthenticator(page: Page): Promise<void> {
  const devtools = await page.context().newCDPSession(page);
  await devtools.send('WebAuthn.enable');
  await devtools.send('WebAuthn.addVirtualAuthenticator', {
    options: {
      protocol: 'ctap2',
      transport: 'internal',
      hasResidentKey: true,
      hasUserVerification: true,
      isUserVerified: true,
      automaticPresenceSimulation: true,
    },
  });
}

test('a passkey is added, lets in, and is removed', async ({ page, baseURL }) => {
  await withAuthenticator(page);
  const door = `${home(baseURL!)}/p/alder-fen/~sign-in`;
  await signInAt(page, door, ines);
  await inside(page);
  await openOwn(page, 'Ines Brannock');
  await page.getByLabel('Name of the new one').fill('My telephone');
  await page.getByRole('button', { name: 'Add a passkey' }).click();
  await expect(page.getByRole('cell', { name: 'My telephone', exact: true })).toBeVisible();
  await expectAccessible(page, "one's own sign-in");

  await page.context().clearCookies();
  await page.goto(door);
  await page.getByRole('button', { name: 'Sign in by a passkey' }).click();
  await page.getByRole('button', { name: 'Use my passkey' }).click();
  await inside(page);
  await openOwn(page, 'Ines Brannock');
  await page.getByRole('button', { name: 'Remove My telephone' }).click();
  await expect(page.getByRole('cell', { name: 'My telephone' })).toHaveCount(0);

  await page.context().clearCookies();
  await page.goto(door);
  await page.getByRole('button', { name: 'Sign in by a passkey' }).click();
  await page.getByRole('button', { name: 'Use my passkey' }).click();
  await expect(page.getByRole('alert')).toContainText('This passkey opens nothing here');
});

test('a builder comes in by single sign-on and by a passkey, which opens no portal', async ({ page, baseURL }) => {
  await withAuthenticator(page);
  const bench = `${home(baseURL!)}/`;
  const portals = () => expect(page.getByRole('heading', { name: 'Portals', exact: true })).toBeVisible();
  await page.goto(bench);
  await page.getByRole('link', { name: 'Sign in with the demo’s accounts' }).click();
  await page.getByRole('button', { name: /Wren Ashby/ }).click();
  await portals();
  await page.getByRole('link', { name: 'Your sign-in' }).click();
  await page.getByLabel('Name of the new one').fill('The workshop');
  await page.getByRole('button', { name: 'Add a passkey' }).click();
  await expect(page.getByRole('cell', { name: 'The workshop', exact: true })).toBeVisible();
  await expectAccessible(page, "a builder's own sign-in");

  await page.context().clearCookies();
  await page.goto(`${home(baseURL!)}/p/alder-fen/~sign-in`);
  await page.getByRole('button', { name: 'Sign in by a passkey' }).click();
  await page.getByRole('button', { name: 'Use my passkey' }).click();
  await expect(page.getByRole('alert')).toContainText('This passkey opens nothing here');

  await page.goto(bench);
  await page.getByRole('button', { name: 'Sign in by a passkey' }).click();
  await page.getByRole('button', { name: 'Use my passkey' }).click();
  await portals();
  await page.getByRole('link', { name: 'Colleagues' }).click();
  await page.getByRole('link', { name: 'How they sign in' }).click();
  await page.getByRole('button', { name: 'Try it' }).click();
  await expect(page.getByText('answers as it should')).toBeVisible();
  await page.getByLabel(/^Passkey/).click();
  await expect(page.getByLabel(/^Passkey/)).not.toBeChecked();
  await page.getByLabel(/^Passkey/).click();
  await expect(page.getByLabel(/^Passkey/)).toBeChecked();
  await expectAccessible(page, 'how builders sign in');
  await page.getByRole('link', { name: 'What owners changed' }).click();
  await expect(page.getByRole('row', { name: /Wren Ashby.*set how builders sign in/ }).first()).toBeVisible();
  await expectAccessible(page, 'what owners changed');
});

test('a second factor is set up, asked for, and forgotten by a builder', async ({ page, browser, baseURL }) => {
  const door = `${home(baseURL!)}/p/alder-fen/~sign-in`;
  const mara = 'mara.lindqvist@example.org';
  await signInAt(page, door, mara);
  // The sign-in lists her, too.
  await expect(page.getByRole('link', { name: 'My visits' })).toBeVisible();
  await openOwn(page, 'Mara Lindqvist');
  const part = page.getByRole('region', { name: 'Second factor' });
  await part.getByRole('button', { name: 'Set it up' }).click();
  await part.getByRole('button', { name: 'Set it up' }).click();
  const secret = (await part.getByText(/^[A-Z2-7 ]{39}$/).innerText()).replaceAll(' ', '');
  await expectAccessible(page, 'setting up a second factor');
  const totp = new TOTP({ secret: Secret.fromBase32(secret) });
  await part.getByLabel('Code that the app shows').fill(totp.generate());
  await part.getByRole('button', { name: 'Keep it' }).click();
  await expect(part.getByText('Keep these recovery codes')).toBeVisible();
  const recovery = await part.getByRole('listitem').first().innerText();
  await part.getByRole('button', { name: 'I have kept them' }).click();
  await expect(part.getByText('you are asked for a code')).toBeVisible();

  const other = await (await browser.newContext()).newPage();
  await signInAt(other, door, mara);
  await expect(other.getByText('One more step')).toBeVisible();
  await expectAccessible(other, 'giving a second factor');
  await other.getByLabel('Code').fill('000000');
  await other.keyboard.press('Enter');
  await expect(other.getByRole('alert')).toContainText('The code is wrong');
  await other.getByLabel('Code').fill(recovery);
  await other.keyboard.press('Enter');
  await expect(other.getByRole('link', { name: 'My visits' })).toBeVisible();

  const bench = await (await browser.newContext({ baseURL })).newPage();
  await signInAsBuilder(bench);
  await bench.goto('/build/alder-fen/people/members?find=mara.lindqvist');
  await bench.getByRole('link', { name: 'Mara Lindqvist' }).click();
  await bench.getByRole('button', { name: 'Forget it' }).click();
  await bench.getByRole('alertdialog').getByRole('button', { name: 'Forget it' }).click();
  await expect(bench.getByText('They have one.').first()).toBeVisible();
  const third = await (await browser.newContext()).newPage();
  await signInAt(third, door, mara);
  await expect(third.getByRole('link', { name: 'My visits' })).toBeVisible();
});

test('somebody is invited to build, chooses a password on a phone, and looks without changing', async ({
  page,
  browser,
  baseURL,
}) => {
  await signInAsBuilder(page);
  await page.goto('/');
  await page.getByRole('link', { name: 'Colleagues' }).click();
  await page.getByRole('button', { name: 'Invite somebody' }).click();
  await page.getByLabel('Name').fill('Hilde Marsh');
  await page.getByLabel('E-mail').fill('hilde.marsh@example.org');
  await choose(page.getByLabel('May', { exact: true }), /^Reader/);
  await expectAccessible(page, 'inviting a colleague');
  await page.getByRole('button', { name: 'Invite', exact: true }).click();
  await expect(page.getByRole('row', { name: /Hilde Marsh/ })).toContainText('has not been in yet');
  await expectAccessible(page, 'colleagues');

  const phone = await (await browser.newContext({ baseURL, viewport: { width: 375, height: 740 } })).newPage();
  await openMail(phone, 'hilde.marsh@example.org', /You can build here now/);
  await phone.getByRole('link', { name: 'Come in' }).click();
  await expect(phone.getByText('Welcome, Hilde Marsh.')).toBeVisible();
  await expectAccessible(phone, 'joining');
  await phone.getByLabel('New password').fill('hilde hilde hilde hilde');
  await phone.keyboard.press('Enter');
  await expect(phone.getByRole('heading', { name: 'Portals', exact: true })).toBeVisible();
  await expect(phone.getByText('Hilde Marsh, who looks')).toBeVisible();
  const { origin } = new URL(phone.url());
  const refused = await phone.request.post(`${origin}/api/builder/portals/alder-fen/members/refresh`, {
    headers: { 'x-stone-porch': 'test' },
  });
  expect(refused.status()).toBe(403);
});
