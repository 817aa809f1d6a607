import { join } from 'node:path';
import { chromium, type Page } from '@playwright/test';
import { root } from '../start/install.mjs';
import { served } from './served';
import { choose, seeAs, signIn, signInAsBuilder } from './steps';
import { chromiumOptions } from '../test/chromium';

/** Takes the pictures of docs/screenshots from the demo: `npm run screenshots`. */
const { base, end } = await served();
// Letters as far from each other as on a screen, where they are not fitted to whole points.
const browser = await chromium.launch({
  ...chromiumOptions,
  args: [...chromiumOptions.args, '--font-render-hinting=none'],
});
try {
  const open = async (size: { width: number; height: number }, colorScheme: 'light' | 'dark' = 'light') =>
    (
      await browser.newContext({
        baseURL: base,
        viewport: size,
        locale: 'en-GB',
        timezoneId: 'Europe/London',
        colorScheme,
        reducedMotion: 'reduce',
      })
    ).newPage();
  const shoot = async (page: Page, name: string, words: string) => {
    await page.getByText(words).first().waitFor({ state: 'attached' });
    await page.waitForLoadState('networkidle');
    await page.screenshot({ path: join(root, 'docs', 'screenshots', `${name}.png`) });
  };
  const wide = { width: 1280, height: 800 };

  const portal = await open(wide);
  await portal.goto('/p/alder-fen/ask');
  await portal.getByLabel('Name').fill('Ada Reed');
  await portal.getByLabel('E-mail').fill('ada.reed@example.org');
  await portal.getByLabel(/^Phone/).fill('01632 000 200');
  await portal.getByRole('button', { name: 'Next', exact: true }).click();
  await portal.getByLabel('Parish').fill('Harrow End');
  await shoot(portal, 'portal-form', 'A day that suits you');
  await signIn(portal, 'ines.brannock@example.org');
  await portal.getByRole('listitem').filter({ hasText: 'AF-0231' }).locator('img').waitFor();
  await shoot(portal, 'portal-home', 'above the limit');
  await portal.goto('/p/alder-fen/my-results?results.view=above');
  await shoot(portal, 'portal-list', 'above the limit');
  const desk = await open(wide);
  await signIn(desk, 'odile.fennimore@example.org', '/p/alder-fen/glance');
  await desk.getByRole('application').first().waitFor();
  await shoot(desk, 'portal-numbers', 'The numbers as a table');
  const phone = await open({ width: 375, height: 740 });
  await signIn(phone, 'mara.lindqvist@example.org');
  await phone.getByRole('listitem').first().waitFor();
  await shoot(phone, 'portal-phone', 'My visits');

  for (const scheme of ['light', 'dark'] as const) {
    const page = await open(wide, scheme);
    await signInAsBuilder(page);
    await page.goto('/build/alder-fen/access/visits?role=sampler&column=access_note');
    await seeAs(page, 'Mara Lindqvist');
    if (scheme === 'dark') {
      await shoot(page, 'access-dark', 'Lets through');
      continue;
    }
    await page.getByRole('complementary').getByRole('row').nth(1).getByRole('button').first().click();
    await shoot(page, 'access', 'against');
    await page.goto('/build/alder-fen/access/~compare?table=visits');
    await page.getByLabel('Second person').click();
    await page.getByLabel('Find a member').fill('Ines Brannock');
    await page.getByRole('dialog').getByRole('button').filter({ hasText: 'Ines Brannock' }).first().click();
    await shoot(page, 'side-by-side', 'the same');
    await page.goto('/build/alder-fen/access/~masks?rule=owners-tax_number');
    await page.getByText('→').nth(3).waitFor();
    await shoot(page, 'masks', 'what stays');
    await page.goto('/build/alder-fen/access/~who');
    await shoot(page, 'who-sees-what', 'Press one to see who that is');
    for (const [name, path, words] of [
      ['data', 'data/owners', 'contact_by'],
      ['people', 'people/lab_staff', 'Holds for'],
      ['pages', 'pages/my-visits', 'List of visits'],
      ['check', 'check', 'Go there'],
      ['publish', 'publish/versions', 'The demo as it comes'],
    ] as const) {
      await page.goto(`/build/alder-fen/${path}`);
      await page.getByTestId('seen-count').waitFor();
      await shoot(page, name, words);
    }
    await page.goto('/build/alder-fen/pages/!actions?rule=close-visit');
    await page.getByRole('group', { name: 'What it does' }).scrollIntoViewIfNeeded();
    await shoot(page, 'actions', 'Make the move');
    await page.goto('/build/alder-fen/people/~invitations');
    await page.getByRole('button', { name: /^Invitation: / }).click();
    await shoot(page, 'invitations', 'would get it');
    await page.goto('/build/alder-fen/data/visits');
    await page.getByRole('button', { name: 'Rows', exact: true }).click();
    await page.getByRole('grid').getByRole('row').nth(5).waitFor();
    await page.getByLabel('Open record 4', { exact: true }).click();
    await shoot(page, 'grid', 'Planned for');
    await page.goto('/build/alder-fen/data/wells');
    await page.getByRole('button', { name: 'Bring a file' }).click();
    await page.getByLabel('File', { exact: true }).setInputFiles({
      name: 'weekly.csv',
      mimeType: 'text/csv',
      buffer: Buffer.from('Code;Depth (m);Parish\nAF-0001;99,5;Marsh End\nAF-0002;12,5;\nNEW-1;7,2;Elsewhere\n'),
    });
    await choose(page.getByLabel('How Depth (m) is written'), /^decimal comma/);
    await page.getByRole('button', { name: 'Look what would change' }).click();
    await page.getByRole('region', { name: 'Refused records' }).scrollIntoViewIfNeeded();
    await shoot(page, 'import', 'would be changed');
  }
} finally {
  await browser.close();
  await end();
}
