import { expect } from './expect';
import { expectAccessible, seeAs, signIn, signInAsBuilder, test } from './steps';

test("a portal's own stylesheet and address: refused with a line, seen beside, and found by members", async ({
  page,
  baseURL,
}) => {
  await signInAsBuilder(page);
  await page.goto('/build/alder-fen/pages/!face');
  await seeAs(page, 'Mara Lindqvist');
  const own = page.getByLabel('A stylesheet of its own');
  await own.fill('.part-top {\n  background: url(https://example.org/a.png);\n}');
  await own.blur();
  await expect(
    page.getByText('in line 2: url() is not taken, since it leads to an address', { exact: true }),
  ).toBeVisible();
  // What was typed is still there to be mended.
  await expect(own).toHaveValue(/url/);
  await own.fill('.part-top {\n  letter-spacing: 3px;\n}\nh1 { font-style: italic }');
  await own.blur();
  await page.getByLabel('Called on a home screen').fill('Wells');
  await page.getByLabel('Called on a home screen').blur();
  await page.getByLabel('Site', { exact: true }).fill('www.example.org');
  await page.getByRole('button', { name: 'Add the site' }).click();
  await expect(page.getByText('Write the beginning of its address')).toBeVisible();
  await page.getByLabel('Site', { exact: true }).fill('https://www.example.org/');
  await page.getByRole('button', { name: 'Add the site' }).click();
  await expect(page.getByRole('button', { name: 'Take out https://www.example.org' })).toBeVisible();
  await expect(page.getByTestId('saving')).toHaveAttribute('aria-busy', 'false');
  // In Seen by it holds within the portal, and nowhere else on the bench.
  const seen = page.getByRole('complementary', { name: 'Seen by' });
  await expect(seen.locator('.part-top')).toHaveCSS('letter-spacing', '3px');
  await expect(seen.getByRole('heading', { level: 1 })).toHaveCSS('font-style', 'italic');
  await expect(page.getByRole('heading', { level: 1, name: "The portal's face" })).toHaveCSS('font-style', 'normal');
  await expectAccessible(page, "the portal's face", 'all', 'whole');

  const { port } = new URL(baseURL!);
  const address = `http://fen.localhost:${port}`;
  await page.getByLabel('An address of its own').fill('fen.localhost');
  await page.getByRole('button', { name: 'Set the address' }).click();
  await page.getByRole('alertdialog').getByRole('button', { name: 'Set the address' }).click();
  await expect(page.getByText(/must be like https:\/\/wells\.example\.org/)).toBeVisible();
  await page.getByLabel('An address of its own').fill(address);
  await page.getByRole('button', { name: 'Set the address' }).click();
  await page.getByRole('alertdialog').getByRole('button', { name: 'Set the address' }).click();
  await expect(page.getByRole('link', { name: `${address}/p/alder-fen` })).toBeVisible();
  // Servers read such addresses anew every two seconds.
  const opened = async (at: string) => {
    await page.goto(at);
    return page.url();
  };
  await expect.poll(() => opened(`${address}/`)).toBe(`${address}/p/alder-fen`);
  await page.getByRole('link', { name: 'Sign in' }).click();
  await page.getByLabel('E-mail').fill('mara.lindqvist@example.org');
  await page.getByLabel('Password', { exact: true }).fill('stone upon stone upon stone');
  await page.getByRole('button', { name: 'Sign in', exact: true }).click();
  await expect(page.getByRole('button', { name: 'Mara Lindqvist' })).toBeVisible();
  expect(new URL(page.url()).origin).toBe(address);
  expect((await page.goto(`${address}/sign-in`))!.status()).toBe(404);
  // Others of this worker go on at the address that they know.
  await page.goto(`${baseURL}/build/alder-fen/pages/!face`);
  await page.getByLabel('An address of its own').fill('');
  await page.getByRole('button', { name: 'Take it away' }).click();
  await page.getByRole('alertdialog').getByRole('button', { name: 'Take it away' }).click();
  await expect(page.getByRole('link', { name: `${address}/p/alder-fen` })).toHaveCount(0);
  await expect.poll(() => opened(`${baseURL}/p/alder-fen`)).toContain(baseURL!);
  await signIn(page, 'mara.lindqvist@example.org');
});
