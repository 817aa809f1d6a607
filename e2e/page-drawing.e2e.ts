import { expect } from './expect';
import { expectAccessible, signInAsBuilder, test } from './steps';

test('sections are moved in the drawing of a page by pointer and by keys, and made narrower', async ({ page }) => {
  await signInAsBuilder(page);
  await page.goto('/build/alder-fen/pages/fees');
  const drawing = page.getByRole('region', { name: 'The page in small' });
  const names = async () =>
    (
      await drawing
        .getByRole('listitem')
        .getByRole('button', { name: /^Move / })
        .all()
    ).reduce<Promise<string[]>>(
      async (all, each) => [...(await all), (await each.getAttribute('aria-label'))!.slice(5)],
      Promise.resolve([]),
    );
  const settings = () =>
    page
      .locator('main')
      .getByRole('heading', { level: 2 })
      .evaluateAll((all) => all.map((each) => each.textContent));
  await expect(drawing.getByRole('listitem').first()).toBeVisible();
  const [first, second, third, ...rest] = await names();
  await expectAccessible(page, 'the drawing of a page');

  const grip = (name: string) => drawing.getByRole('button', { name: `Move ${name}`, exact: true });
  const from = (await grip(third!).boundingBox())!;
  const to = (await grip(first!).boundingBox())!;
  await page.mouse.move(from.x + 8, from.y + 8);
  await page.mouse.down();
  await page.mouse.move(to.x + 8, to.y + 8, { steps: 8 });
  await page.mouse.up();
  await expect.poll(names).toEqual([third, first, second, ...rest]);
  // The settings below stand in the same order.
  await expect.poll(settings).toEqual([third, first, second, ...rest]);

  await grip(third!).focus();
  await page.keyboard.press('Space');
  await expect(page.getByText(`${third} is picked up, at place 1 of`)).toBeAttached();
  await page.keyboard.press('ArrowDown');
  await expect(page.getByText(`${third} goes to place 2 of`)).toBeAttached();
  await page.keyboard.press('Space');
  await expect.poll(names).toEqual([first, third, second, ...rest]);
  await page.getByRole('button', { name: /^Undo/ }).click();
  await page.getByRole('button', { name: /^Undo/ }).click();
  await expect.poll(names).toEqual([first, second, third, ...rest]);

  const width = drawing.getByRole('button', { name: `Width of ${first}` });
  await expect(width).toHaveText('full');
  await width.click();
  await expect(width).toHaveText('two thirds');
  await drawing.getByRole('listitem').nth(2).getByRole('button', { name: third }).nth(1).click();
  await expect(page.getByRole('heading', { level: 2, name: third, exact: true })).toBeFocused();
  await page.getByRole('button', { name: /^Undo/ }).click();
  await expect(width).toHaveText('full');
});
