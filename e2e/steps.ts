import type { PortalDefinition } from '../core/definition/definition';
import { demoDefinition } from '../demo/definition';
import { readFileSync } from 'node:fs';
import { createRequire } from 'node:module';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { createConnection, type Connection } from 'mariadb';
import { AxeBuilder } from '@axe-core/playwright';
import { test as base, type Locator, type Page } from '@playwright/test';
import { expect } from './expect';

/**
 * A test at the server of its own worker: what one test file changes, a file running beside it does not see. When it
 * fails it says in words what stood on the page, so that a run whose files nobody kept can be understood.
 */
export const test = base.extend<{ telling: void }>({
  // Whoever leaves the bench by an address sees "saving …" before, and is asked by the browser: edits on their way are
  // waited for.
  page: async ({ page }, use) => {
    const goto = page.goto.bind(page);
    page.goto = async (url, options) => {
      const saving = page.getByTestId('saving');
      if ((await saving.count()) > 0) await expect(saving).toHaveAttribute('aria-busy', 'false');
      return goto(url, options);
    };
    await use(page);
  },
  telling: [
    async ({ page }, use, info) => {
      await use();
      if (info.status === info.expectedStatus) return;
      const text = await page
        .locator('body')
        .innerText({ timeout: 5_000 })
        .catch((error: Error) => error.message);
      console.log(
        `${info.title}\n  failed at ${page.url()}, where this stood:\n${text.replaceAll(/\n+/g, '\n').slice(0, 4000)}`,
      );
    },
    { auto: true },
  ],
  // oxlint-disable-next-line no-empty-pattern -- Playwright reads from the pattern which fixtures are needed: none.
  baseURL: async ({}, use, info) => use(`http://127.0.0.1:${process.env.E2E_PORTS!.split(' ')[info.parallelIndex]}`),
});

export const password = 'stone upon stone upon stone';

/**
 * Signs a member in and goes there. By the API: how people sign in is tried by the tests of signing in, once and not
 * before everything else.
 */
export async function signIn(page: Page, email: string, path = '/p/alder-fen'): Promise<void> {
  const [, slug] = /^\/p\/([^/]+)/.exec(path)!;
  await signInByApi(page, `/api/portals/${slug}/sign-in`, email);
  await page.goto(path);
  await expect(page.getByRole('navigation').first()).toBeVisible();
}

async function signInByApi(page: Page, at: string, email: string): Promise<void> {
  const answer = await page.request.post(at, {
    headers: { 'x-stone-porch': 'test' },
    data: { email, password },
  });
  expect(answer.status(), await answer.text()).toBe(200);
}

/** What a column or table is called on the bench where nobody gave it a label. */
export const called = (name: string) => name.replace(/_id$/, '').replaceAll('_', ' ');

/** A name as a whole, in whatever case it stands. */
export const inAnyCase = (text: string) => new RegExp(`^${text.replaceAll(/[.*+?^${}()|[\]\\]/g, '\\$&')}$`, 'i');

/** Chooses in one of our lists, by what is read there. The browser's own stands in its place until ours is loaded. */
export async function choose(on: Locator, option: string | RegExp): Promise<void> {
  await expect(on).toHaveJSProperty('tagName', 'BUTTON', { timeout: 30_000 });
  await on.click();
  const name = typeof option === 'string' ? inAnyCase(option) : option;
  await on.page().getByRole('option', { name }).click();
  await expect(on.page().locator('[role="listbox"][data-state="open"]')).toHaveCount(0);
}

/** Puts a section of a kind on the page that is open on the bench, of a table where it is about one. */
export async function addSection(page: Page, kind: string, of?: string | RegExp): Promise<void> {
  await page.getByRole('button', { name: 'Section', exact: true }).click();
  const dialog = page.getByRole('dialog');
  const choice = dialog.getByRole('radio', { name: new RegExp(`^${kind} `) });
  if (!(await choice.isChecked())) await choice.click();
  const name = of === undefined ? 'Put it on the page' : typeof of === 'string' ? inAnyCase(of) : of;
  await dialog.getByRole('button', { name }).click();
  await expect(dialog).toBeHidden();
}

/** Signs the demo's builder in, by the API; the test then goes where it wants to be. */
export async function signInAsBuilder(page: Page): Promise<void> {
  await signInByApi(page, '/api/builder/sign-in', 'builder@example.org');
}

/** Publishes the draft on the bench, and waits until what was published is live. */
export async function publishNow(
  page: Page,
  press: (on: Locator) => Promise<void> = (on) => on.click(),
): Promise<void> {
  await press(page.getByRole('link', { name: /^Publish v\d+…/ }));
  const button = page.getByRole('button', { name: /^Publish version \d/ });
  const version = /\d+/.exec(await button.innerText())![0];
  await press(button);
  await expect(page.getByText(`v${version} is live`)).toBeVisible();
}

/** Works on the demo's portal as it comes; its draft, and what is live, are afterwards as they were. */
export async function onFreshDemo(page: Page, work: () => Promise<void>): Promise<void> {
  const headers = { 'x-stone-porch': 'test' };
  const at = '/api/builder/portals/alder-fen';
  const put = async (data: object) =>
    expect((await page.request.put(`${at}/definition`, { headers, data })).status()).toBe(200);
  const before = (await (await page.request.get(`${at}/definition`)).json()) as PortalDefinition;
  // What it calls listens where it did.
  const [tracker, receiver] = before.addresses!.map(({ url }) => new URL(url).origin) as [string, string];
  const { publishedVersion } = (await (await page.request.get(at)).json()) as { publishedVersion: number };
  await put(demoDefinition('alder_fen', true, { tracker, receiver }));
  try {
    await work();
  } finally {
    await put(before);
    const again = await page.request.post(`${at}/versions/${publishedVersion}/publish`, { headers, data: {} });
    expect(again.status()).toBe(204);
  }
}

/** A connection of one's own to the database of the server that the test runs against. */
export async function plainSql(baseURL: string): Promise<Connection> {
  const address = JSON.parse(readFileSync(join(tmpdir(), `stone-porch-e2e-${new URL(baseURL).port}.json`), 'utf8')) as {
    host: string;
    port: number;
    socketPath?: string;
    user: string;
    password: string;
  };
  return createConnection({ ...address, database: 'alder_fen' });
}

/** Chooses whom Seen by shows: by name, or by e-mail where several have the name. */
export async function seeAs(page: Page, name: string, find = name): Promise<void> {
  await page.locator('[data-person]').click();
  await page.getByLabel('Find a member').fill(find);
  await page.getByRole('dialog').getByRole('button').filter({ hasText: name }).first().click();
  await expect(page.locator('[data-person]')).toContainText(name);
}

/**
 * axe's rules for WCAG 2.2 A and AA, or those of them that a theme can break, find nothing of any impact. In a dialog
 * they look at the dialog, and on the bench at all but Seen by, which stands there as it did before, and of a table at
 * its first rows: axe is a fifth of what browser tests cost. `axe.e2e.ts` looks at whole screens.
 */
export async function expectAccessible(
  page: Page,
  what: string,
  rules: 'all' | 'of colour' = 'all',
  part: 'what is new' | 'all but Seen by' | 'whole' = 'what is new',
): Promise<void> {
  // A stage that is still being fetched has no main part or no heading yet; a dialog over it hides the main part from
  // roles.
  await expect(page.locator('main').first()).toBeVisible();
  await expect(page.locator('h1').first()).toBeAttached();
  // All frames are of one origin, so axe needs no second page to put its results together.
  // Of what is fine it need not say where it stands, and no rule that is asked for needs style sheets fetched.
  const axe = (await axeOn(page)).options({ resultTypes: ['violations'], preload: false });
  const dialog = '[role="dialog"], [role="alertdialog"]';
  if (part === 'what is new' && (await page.locator(dialog).count()) > 0) axe.include(dialog);
  else if (part !== 'whole') axe.exclude('aside[aria-label="Seen by"]');
  // Rows of a table are like those before them, and contrast is reckoned for each word.
  if (part !== 'whole') axe.exclude(':is(tbody > tr, [role="row"]):nth-child(n + 7)');
  const { violations } = await (
    rules === 'all'
      ? axe.withTags(['wcag2a', 'wcag2aa', 'wcag21a', 'wcag21aa', 'wcag22aa', 'best-practice'])
      : axe.withRules(['color-contrast', 'link-in-text-block'])
  ).analyze();
  expect(
    (await notScrolledInto(page, violations)).map(
      (violation) =>
        `${what}: ${violation.id}: ${violation.nodes
          .map((node) => `${node.target.join(' ')} ${node.failureSummary?.split('\n').slice(1, 3).join(' ')}`)
          .slice(0, 3)
          .join(' | ')}`,
    ),
  ).toEqual([]);
}

/**
 * What axe reads of a colour's text it reads once: it goes through every colour space for each element anew, which
 * makes contrast cost twice as much. And of what it finds it need not give the HTML.
 */
const readsColoursOnce = `{
  const known = new Map();
  const { prototype } = axe.commons.color.Color;
  const read = prototype.parseString;
  prototype.parseString = function (text) {
    if (!known.has(text)) {
      read.call(this, text);
      known.set(text, [this.r, this.g, this.b, this.alpha]);
    } else [this.r, this.g, this.b, this.alpha] = known.get(text);
    return this;
  };
  axe.configure({ noHtml: true });
}`;

const axeFile = createRequire(import.meta.url).resolve('axe-core/axe.min.js');
const axeSource = `${readFileSync(axeFile, 'utf8')};${readsColoursOnce}`;

/** axe, which is read once in each document; left to itself it is read twice before each look. */
async function axeOn(page: Page): Promise<AxeBuilder> {
  for (const frame of page.frames())
    if (!(await frame.evaluate(() => 'axe' in window))) await frame.evaluate(axeSource);
  return new AxeBuilder({ page, axeSource: ';' }).setLegacyMode(true);
}

type Violation = Awaited<ReturnType<AxeBuilder['analyze']>>['violations'][number];

/**
 * Without targets that only the bar at the foot of a phone stands over: whoever scrolls them into sight can hit them,
 * which is looked at here, one by one (WCAG 2.5.8 is about their size).
 */
async function notScrolledInto(page: Page, violations: Violation[]): Promise<Violation[]> {
  const left: Violation[] = [];
  for (const violation of violations) {
    const nodes: Violation['nodes'] = [];
    for (const node of violation.nodes) {
      const selector = node.target.join(' ');
      const isObscured = violation.id === 'target-size' && node.failureSummary?.includes('obscured') === true;
      if (isObscured) await page.locator(selector).evaluate((target) => target.scrollIntoView({ block: 'center' }));
      const axe = (await axeOn(page)).include(selector).withRules(['target-size']);
      if (!isObscured || (await axe.analyze()).violations.length > 0) nodes.push(node);
    }
    if (nodes.length > 0) left.push({ ...violation, nodes });
  }
  return left;
}

/** Makes a portal over the demo's tables with its people and no rules, by the API; the rules are then set by hand. */
export async function bareFen(page: Page, slug: string): Promise<void> {
  const headers = { 'x-stone-porch': 'test' };
  const at = `/api/builder/portals/${slug}`;
  expect(
    (
      await page.request.post('/api/builder/portals', {
        headers,
        data: { slug, name: `Fen ${slug}`, schema: 'alder_fen', timeZone: 'Europe/London' },
      })
    ).status(),
  ).toBe(201);
  const definition = (await (await page.request.get(`${at}/definition`)).json()) as object;
  const { roles, rosters } = (await (await page.request.get('/api/builder/portals/alder-fen/definition')).json()) as {
    roles: unknown[];
    rosters: unknown[];
  };
  Object.assign(definition, { roles, rosters });
  expect((await page.request.put(`${at}/definition`, { headers, data: definition })).status()).toBe(200);
  const { id } = (await (await page.request.post(`${at}/members/refresh`, { headers })).json()) as { id: number };
  const state = async () => ((await (await page.request.get(`${at}/jobs/${id}`)).json()) as { state: string }).state;
  await expect.poll(state).toBe('done');
}

export const cell = (page: Page, name: string | RegExp) => page.getByRole('gridcell', { name });
export const seenCount = (page: Page) => page.getByTestId('seen-count');

/** The newest mail to an address, opened in the demo's mail box. */
export async function openMail(page: Page, to: string, subject: RegExp): Promise<void> {
  const { mailBox } = (await (await page.request.get('/api/portals/alder-fen/door')).json()) as { mailBox: string };
  const mail = page.getByRole('row').filter({ hasText: to }).getByRole('link', { name: subject }).first();
  await expect(async () => {
    await page.goto(mailBox);
    await expect(mail).toBeVisible({ timeout: 1000 });
  }).toPass();
  await mail.click();
}
