import { expect } from './expect';
import { choose, expectAccessible, signInAsBuilder, test } from './steps';

const csv = 'Code;Depth (m);Owner;Since\nAF-0001;99,5;;3/4/2020\nNEW-1;7,2;Nobody;13/4/2020\n';

test('a file goes into a table: asked how it is written, shown before, refused with reasons, and remembered', async ({
  page,
}) => {
  await signInAsBuilder(page);
  await page.goto('/build/fen-fresh/data/wells');
  await page.getByRole('button', { name: 'Bring a file' }).click();
  const bring = (name: string) =>
    page.getByLabel('File', { exact: true }).setInputFiles({ name, mimeType: 'text/csv', buffer: Buffer.from(csv) });
  await bring('weekly.csv');
  await expect(page.getByLabel('Where Depth (m) goes')).toHaveText('Depth, m');
  await expect(page.getByLabel('What stands in Owner')).toHaveText('holds name of owners');
  await choose(page.getByLabel('An empty cell'), 'leaves it as it is');
  await choose(page.getByLabel('Where Since goes'), 'Drilled');
  await page.getByRole('button', { name: 'Look what would change' }).click();
  // Nothing was guessed: what could be read two ways is refused until it is said.
  await expect(page.getByRole('region', { name: 'Refused records' })).toContainText(
    'This has a comma, which can mean two things.',
  );
  await choose(page.getByLabel('How Depth (m) is written'), /^decimal comma/);
  await choose(page.getByLabel('How Since is written'), /^day first/);
  await page.getByRole('button', { name: 'Look what would change' }).click();
  await expect(page.getByRole('region', { name: 'Refused records' })).toContainText(
    'No record of owners has this name.',
  );
  await expect(page.getByRole('region', { name: 'Changed records' })).toContainText('99.5');
  await expectAccessible(page, 'what a file would change');
  const download = page.waitForEvent('download');
  await page.getByRole('link', { name: 'The refused record as a file' }).click();
  expect((await download).suggestedFilename()).toBe('weekly refused.csv');
  await page.getByRole('button', { name: 'Change 1, without the 1 refused' }).click();
  await expect(page.getByText('Done: 1 record changed, 1 record refused in wells.')).toBeVisible();
  await bring('the week after.csv');
  await expect(page.getByText('The columns go where they went the last time.')).toBeVisible();
  await expect(page.getByLabel('How Since is written')).toHaveText(/^day first/);
  await page.getByRole('button', { name: 'Look what would change' }).click();
  await expect(page.getByText('There is nothing to bring into wells.')).toBeVisible();
  // Another week it comes with days as ISO 8601 writes them and points: nothing of the last time stands in its way, and
  // how it is written can still be said.
  await page.getByLabel('File', { exact: true }).setInputFiles({
    name: 'another.csv',
    mimeType: 'text/csv',
    buffer: Buffer.from('CODE;Depth_(M);Since\nAF-0001;98.5;2020-04-03\n'),
  });
  await expect(page.getByLabel('Where Depth_(M) goes')).toHaveText('Depth, m');
  await expect(page.getByLabel('How Since is written')).not.toHaveText(/day first/);
  await page.getByRole('button', { name: 'Look what would change' }).click();
  await expect(page.getByRole('region', { name: 'Changed records' })).toContainText('98.5');
});
