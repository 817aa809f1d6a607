import { chromium } from '@playwright/test';
const browser = await chromium.launch({ executablePath: '/usr/bin/chromium', args: ['--no-sandbox', '--headless', '--disable-gpu'] });
const page = await (await browser.newContext({ baseURL: 'http://127.0.0.1:4700', viewport: { width: 1280, height: 800 }, locale: 'en-GB', reducedMotion: 'reduce' })).newPage();
await page.goto('/');
await page.getByLabel('E-mail').fill('builder@example.org');
await page.getByLabel('Password', { exact: true }).fill('stone by stone');
await page.getByRole('button', { name: 'Sign in' }).click();
await page.getByRole('heading', { name: 'Portals', exact: true }).waitFor();
const shots = process.argv.slice(2);
for (const shot of shots) {
  const [name, path, ...steps] = shot.split('|');
  await page.goto(path!);
  await page.waitForTimeout(1500);
  for (const step of steps) {
    const [what, label, text] = step.split('=');
    if (what === 'click') await page.getByRole('button', { name: label! }).first().click();
    if (what === 'fill') await page.getByLabel(label!).first().fill(text!);
    if (what === 'see') { await page.locator('[data-person]').click(); await page.getByRole('dialog').getByLabel('Find a member').fill(label!); await page.getByRole('dialog').getByRole('button').filter({ hasText: label! }).first().click(); }
    await page.waitForTimeout(700);
  }
  await page.screenshot({ path: `/tmp/look-${name}.png` });
}
await browser.close();
