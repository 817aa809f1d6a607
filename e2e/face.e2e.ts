import { expect } from '@playwright/test';
import { expectAccessible, seeAs, signIn, signInAsBuilder, test } from './steps';

test('a portal gets its own face, and members see it at the door and inside, light and dark', async ({
  page,
  browser,
  baseURL,
}) => {
  await signInAsBuilder(page);
  await page.goto('/build/alder-fen/pages/!face');
  await seeAs(page, 'Ines Brannock');
  const seen = page.getByRole('complementary', { name: 'Seen by' });
  await expect(seen.getByRole('heading', { name: 'Home' })).toBeVisible();
  await page.getByLabel('Name', { exact: true }).fill('Wells of the Fen');
  await page.getByLabel('Name', { exact: true }).blur();
  await expect(seen.getByText('Wells of the Fen')).toBeVisible();
  // White letters on this can't be read: it is said, shown darker, and kept so with a press.
  const top = page.getByLabel('Top', { exact: true });
  await top.fill('#ffd400');
  await top.blur();
  await expect(page.getByText('Letters on it reach 1.4 : 1 and need 4.5 : 1.')).toBeVisible();
  await page.getByRole('button', { name: /^Keep #/ }).click();
  await expect(page.getByText('Letters on it reach')).toHaveCount(0);
  await page.getByLabel('What is pressed, and links', { exact: true }).fill('#7a2e8c');
  await page.getByLabel('What is pressed, and links', { exact: true }).blur();
  await page.getByRole('radio', { name: 'round', exact: true }).click();
  await page.getByRole('radio', { name: 'Nunito' }).click();
  await page.getByRole('radio', { name: 'tight' }).click();
  await page
    .getByLabel('Logo')
    .setInputFiles({ name: 'logo.png', mimeType: 'image/png', buffer: Buffer.from('PK\x03\x04') });
  await expect(page.getByText('logo.png is no picture that can be read.')).toBeVisible();
  await page.getByLabel('Called').fill('Contact');
  await page.getByLabel('Leads to').fill('javascript:alert(1)');
  await page.getByRole('button', { name: 'Add the link' }).click();
  await expect(page.getByText('Write a whole address')).toBeVisible();
  await page.getByLabel('Leads to').fill('https://fen.example.org/contact');
  await page.getByRole('button', { name: 'Add the link' }).click();
  await expect(seen.getByRole('link', { name: 'Contact' })).toHaveAttribute('href', 'https://fen.example.org/contact');
  // At its end nothing lies below the pages that stand at the bottom.
  await seen.getByRole('link', { name: 'Contact' }).scrollIntoViewIfNeeded();
  await expectAccessible(page, 'the face on the bench');
  await page
    .getByRole('link', { name: /^Publish/ })
    .first()
    .click();
  await page.getByRole('button', { name: /^Publish version/ }).click();
  await expect(page.getByText(/version 2/i).first()).toBeVisible();

  for (const colorScheme of ['light', 'dark'] as const) {
    const context = await browser.newContext({ baseURL: baseURL!, colorScheme });
    const theirs = await context.newPage();
    await theirs.goto('/p/alder-fen/~sign-in');
    await expect(theirs.getByRole('heading', { name: 'Wells of the Fen' })).toBeVisible();
    await expect(theirs.getByText('For owners of private wells')).toBeVisible();
    await expectAccessible(theirs, `the door by ${colorScheme}`);
    await signIn(theirs, 'ines.brannock@example.org', '/p/alder-fen/my-wells');
    await expect(theirs.getByRole('link', { name: 'Contact' })).toBeVisible();
    await expect(theirs.getByRole('heading', { name: 'My wells' })).toHaveCSS('font-family', /^"?Nunito Variable/);
    await expect(theirs.getByRole('searchbox').first()).toHaveCSS('border-radius', '9px');
    await expectAccessible(theirs, `a page by ${colorScheme}`);
    await theirs.setViewportSize({ width: 390, height: 800 });
    await theirs.evaluate(() => window.scrollTo(0, document.body.scrollHeight));
    await expectAccessible(theirs, `a page on a phone by ${colorScheme}`);
    await context.close();
  }
});
