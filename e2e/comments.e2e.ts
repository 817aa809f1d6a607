import sharp from 'sharp';
import { expect } from './expect';
import { expectAccessible, signIn, signInAsBuilder, test } from './steps';

test('an owner and the desk talk about a well, and the desk among themselves; the builder says who may', async ({
  page,
  browser,
  baseURL,
}) => {
  await signIn(page, 'ines.brannock@example.org', '/p/alder-fen/my-wells/wells/232');
  const talk = page.getByRole('region', { name: 'Comments' });
  await expect(talk.getByText('Nothing was said yet.')).toBeVisible();
  await talk.getByLabel('Your comment').fill('Is the barn well still on the list?\nIt was dry in July.');
  // What is typed is not lost on the way to elsewhere.
  await page.getByRole('link', { name: 'Close' }).click();
  await page.getByRole('button', { name: 'Stay here' }).click();
  await talk.getByRole('button', { name: 'Send', exact: true }).click();
  await expect(talk.getByRole('article')).toHaveText(
    /^You.*Is the barn well still on the list\?\s*It was dry in July\.$/s,
  );
  await expect(talk.getByLabel('Your comment')).toHaveValue('');
  await expectAccessible(page, 'comments on a record');

  const desk = await (await browser.newContext({ baseURL })).newPage();
  await signIn(desk, 'odile.fennimore@example.org', '/p/alder-fen/all-wells/wells/232');
  const theirs = desk.getByRole('region', { name: 'Comments' });
  await expect(theirs.getByRole('article')).toContainText('Ines BrannockWell owner');
  await theirs.getByLabel('Your comment').fill('It is, for May.');
  // By the keyboard alone.
  await desk.keyboard.press('Control+Enter');
  await expect(theirs.getByRole('article')).toHaveCount(2);
  await theirs.getByLabel('Among us alone').check();
  await theirs.getByLabel('Your comment').fill('She forgets to pay.');
  await theirs.getByRole('button', { name: 'Send among us' }).click();
  await expect(theirs.getByRole('article').last()).toContainText('Among us');
  await expectAccessible(desk, 'comments for all and among us');

  await page.reload();
  await expect(talk.getByRole('article')).toHaveCount(2);
  await expect(talk.getByRole('article').last()).toHaveText(/^Programme desk.*It is, for May\.$/s);
  await talk.getByRole('button', { name: /^Take out the comment/ }).click();
  await page.getByRole('button', { name: 'Take it out' }).click();
  await expect(talk.getByRole('article')).toHaveCount(1);

  await signInAsBuilder(desk);
  await desk.goto('/build/alder-fen/access/wells?role=well_owner&do=comments');
  await expect(desk.getByRole('button', { name: 'comments for all' })).toBeVisible();
  await desk.getByRole('checkbox', { name: 'read', exact: true }).first().click();
  await expect(desk.getByRole('button', { name: 'comments none' })).toBeVisible();
  await desk.getByRole('button', { name: /^Undo/ }).click();
  await expect(desk.getByRole('button', { name: 'comments for all' })).toBeVisible();
  await expectAccessible(desk, 'granting comments');
});

test('an owner says that a depth and a postcode are wrong; the desk puts in what was meant', async ({
  page,
  browser,
  baseURL,
}) => {
  await signIn(page, 'ines.brannock@example.org', '/p/alder-fen/my-wells/wells/419');
  const talk = page.getByRole('region', { name: 'Comments' });
  await expect(talk.getByRole('article')).toContainText('Depth, m is wrong');
  await expect(talk.getByRole('button', { name: /^Put in/ })).toHaveCount(0);
  await page.getByRole('button', { name: 'wrong? Postcode' }).click();
  const dialog = page.getByRole('dialog', { name: 'Wrong: Postcode' });
  await dialog.getByRole('button', { name: 'Say so' }).click();
  await expect(dialog.getByText('Say what is wrong, or what it should be.')).toBeVisible();
  await dialog.getByLabel('It should be').fill('AF9 9ZZ');
  await expectAccessible(page, 'saying that something is wrong');
  await page.keyboard.press('Enter');
  await expect(page.getByText('Postcode: said to be wrong, among the comments.')).toBeVisible();
  await expect(talk.getByRole('article').last()).toContainText('and should be AF9 9ZZ');

  const desk = await (await browser.newContext({ baseURL })).newPage();
  await signIn(desk, 'odile.fennimore@example.org', '/p/alder-fen/all-wells/wells/419');
  const theirs = desk.getByRole('region', { name: 'Comments' });
  await theirs.getByRole('button', { name: 'Put in AF9 9ZZ' }).click();
  await expect(theirs.getByRole('article').last()).toContainText('It says so by now.');
  await expect(desk.getByRole('region', { name: 'Record' }).getByLabel('Postcode')).toHaveValue('AF9 9ZZ');
  await expectAccessible(desk, 'what is said to be wrong');
  await page.reload();
  await expect(talk.getByRole('article').last()).toContainText('It says so by now.');
});

test('an owner hangs files on a well, is told what can’t be taken, and the desk opens them', async ({
  page,
  browser,
  baseURL,
}) => {
  await signIn(page, 'ines.brannock@example.org', '/p/alder-fen/my-wells/wells/232');
  const files = page.getByRole('region', { name: 'Files' });
  await expect(files.getByRole('article')).toHaveCount(1);
  const picture = await sharp({ create: { width: 900, height: 600, channels: 3, background: '#5b9bb5' } })
    .png()
    .toBuffer();
  await page.getByTestId('files-to-add').setInputFiles([
    { name: 'barn.png', mimeType: 'image/png', buffer: picture },
    { name: 'barn.pdf', mimeType: 'application/pdf', buffer: picture },
    { name: 'key.txt', mimeType: 'text/plain', buffer: Buffer.from('With the neighbour.') },
  ]);
  await expect(files.getByRole('alert')).toHaveText(/^barn\.pdf holds PNG, and its name says something else/);
  await expect(files.getByRole('article')).toHaveCount(3);
  const small = files.getByRole('article').filter({ hasText: 'barn.png' }).locator('img');
  await expect.poll(() => small.evaluate((image: HTMLImageElement) => image.naturalWidth)).toBe(480);
  await expectAccessible(page, 'files on a record');
  await files.getByRole('button', { name: 'Take out key.txt' }).click();
  await page.getByRole('button', { name: 'Take it out' }).click();
  await expect(files.getByRole('article')).toHaveCount(2);

  const desk = await (await browser.newContext({ baseURL })).newPage();
  await signIn(desk, 'odile.fennimore@example.org', '/p/alder-fen/all-wells/wells/232');
  const theirs = desk.getByRole('region', { name: 'Files' });
  await expect(theirs.getByRole('article').first()).toContainText(/barn\.png.*Ines Brannock/s);
  await theirs.getByLabel('Among us alone').check();
  await desk.getByTestId('files-to-add').setInputFiles({
    name: 'plan.txt',
    mimeType: 'text/plain',
    buffer: Buffer.from('Ask for the deeds.'),
  });
  await expect(theirs.getByRole('article').first()).toContainText('Among us');
  const saved = desk.waitForEvent('download');
  await theirs.getByRole('link', { name: 'plan.txt' }).click({ modifiers: ['Alt'] });
  expect((await saved).suggestedFilename()).toBe('plan.txt');
  await page.reload();
  await expect(files.getByRole('article')).toHaveCount(2);

  await signInAsBuilder(desk);
  await desk.goto('/build/alder-fen/access/wells?role=well_owner&do=files');
  await desk.getByRole('checkbox', { name: 'open', exact: true }).first().click();
  await expect(desk.getByRole('button', { name: 'files none' })).toBeVisible();
  await desk.getByRole('button', { name: /^Undo/ }).click();
  await expect(desk.getByRole('button', { name: 'files for all' })).toBeVisible();
});
