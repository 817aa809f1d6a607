import { expect } from './expect';
import { choose, expectAccessible, signInAsBuilder, test } from './steps';

test("a database that can't be connected says why beside the field, and nothing typed is lost", async ({ page }) => {
  await signInAsBuilder(page);
  await page.goto('/');
  await page.getByRole('button', { name: 'Connect a database' }).click();
  const form = page.getByRole('form', { name: 'Connect a database' });
  await form.getByRole('button', { name: 'Connect it' }).click();
  await expect(form.getByText('Where does it run?')).toBeVisible();

  const typed = {
    'Name of the connection': 'lab',
    Host: 'no-such-host.invalid',
    Port: '5499',
    Database: 'wells',
    User: 'portal',
  };
  for (const [label, value] of Object.entries(typed)) await form.getByLabel(label, { exact: true }).fill(value);
  await form.getByLabel('Password').fill('ford the fen');
  await form.getByRole('button', { name: 'Try it' }).click();
  await expect(form.getByText('There is no host called no-such-host.invalid. Check the name.')).toBeVisible();
  await expectAccessible(page, 'connecting a database');

  await form.getByLabel('Host', { exact: true }).fill('127.0.0.1');
  await form.getByLabel('Port').fill('1');
  await form.getByRole('button', { name: 'Connect it' }).click();
  await expect(
    form.getByText(
      'No database of this kind answers at 127.0.0.1, port 1. Check both, and whether this machine may reach it.',
    ),
  ).toBeVisible();
  await expect(form.getByLabel('User')).toHaveValue('portal');
  await expect(form.getByLabel('Password')).toHaveValue('ford the fen');
  await choose(form.getByLabel('Kind of database'), 'MariaDB or MySQL');
  await expect(form.getByLabel('Port')).toHaveValue('3306');
  await expect(form.getByLabel('Database', { exact: true })).toHaveCount(0);

  // Nothing was kept, and the portal's own form still offers the product's database.
  await form.getByRole('button', { name: 'Cancel' }).click();
  await expect(page.getByText('None yet. Portals can use the schemas')).toBeVisible();
  await choose(page.getByLabel('Database schema'), 'alder_fen');
});

test('a press counts where it began, though what stands above came in that moment', async ({ page }) => {
  await signInAsBuilder(page);
  // All of it is in sight, so that nothing is scrolled back to where it was.
  await page.setViewportSize({ width: 1280, height: 2400 });
  let come = () => {};
  const held = new Promise<void>((resolve) => (come = resolve));
  await page.route(/\/api\/builder\/portals$/, async (route) => {
    const { portals, ...others } = (await (await route.fetch()).json()) as { portals: { slug: string }[] };
    await held;
    // So many that their list is higher than what stands there meanwhile.
    const many = Array.from({ length: 9 }, (_, i) => ({ ...portals[0]!, slug: `portal-${i}` }));
    await route.fulfill({ json: { ...others, portals: many } });
  });
  await page.goto('/');
  await page.getByRole('button', { name: 'Connect a database' }).click();
  const form = page.getByRole('form', { name: 'Connect a database' });
  const button = form.getByRole('button', { name: 'Connect it' });
  const top = async () => (await button.boundingBox())!.y;
  const before = await top();
  await button.hover();
  await page.mouse.down();
  come();
  await expect.poll(top).toBeGreaterThan(before + 40);
  await page.mouse.up();
  await expect(form.getByText('Where does it run?')).toBeVisible();

  // A hand that goes off takes it back.
  await form.getByRole('button', { name: 'Cancel' }).hover();
  await page.mouse.down();
  await page.mouse.move(5, 5);
  await page.mouse.up();
  await expect(form).toBeVisible();
});
