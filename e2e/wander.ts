import { parseArgs } from 'node:util';
import { chromium, type Locator, type Page } from '@playwright/test';
import { Random } from '../core/proof/random';
import { chromiumOptions } from '../test/chromium';
import { served } from './served';
import { signIn, signInAsBuilder } from './steps';

/**
 * `npm run wander -- --minutes N --seed S`: presses, types and goes back at random in the demo, as its people and its
 * builder, and tells where a page broke: an error that nobody caught, an answer of 500 and above, a page with nothing
 * on it, or words that no person should read. Ends with 1 where something was found.
 */
const { values } = parseArgs({
  options: { minutes: { type: 'string', default: '2' }, seed: { type: 'string', default: '1' } },
});
const random = new Random(Number(values.seed));
const until = Date.now() + Number(values.minutes) * 60_000;
const found = new Map<string, string>();

const over = '[role="dialog"], [role="alertdialog"], [role="menu"], [role="listbox"]';
const pressed =
  'button, a[href], summary, [type="checkbox"], [role="menuitem"], [role="option"], [role="tab"], [role="gridcell"]';
const filled = 'input:not([type="file"], [type="checkbox"], [type="radio"]), textarea';
const texts = [
  '',
  ' ',
  'x',
  'Saltby',
  '12,5',
  '-1',
  '1e999',
  '999999999999999999',
  '2026-02-30',
  '2026-03-29 02:30',
  'Ünï 💧',
  'a\'b"c',
  '<b>',
  '%',
  'x'.repeat(300),
];
const keys = ['Escape', 'Tab', 'ArrowDown', 'ArrowUp', 'Enter', 'Space', 'Delete', 'Control+z', 'Control+k', 'F2'];
/** Words of programs, which stand on a page by mistake. */
const odd = /\b(?:undefined|NaN|Invalid Date)\b|\[object /;

/** One person in one window, and what they did last. */
class Walk {
  private readonly steps: string[] = [];
  constructor(
    private readonly page: Page,
    private readonly who: string,
  ) {
    page.on('pageerror', (error) => this.tell(`error: ${error.stack ?? error.message}`));
    page.on('console', (message) => {
      // What was refused is told there as well.
      if (message.type() === 'error' && !message.text().startsWith('Failed to load resource'))
        this.tell(`console: ${message.text()}`);
    });
    page.on('response', (response) => {
      if (response.status() >= 500)
        this.tell(`${response.status()} ${response.request().method()} ${response.url().replace(base, '')}`);
    });
    page.on('dialog', (dialog) => void dialog.accept().catch(() => undefined));
  }

  private tell(what: string): void {
    const kind = what.slice(0, 120);
    if (found.has(kind)) return;
    const at = this.page.url().replace(base, '');
    found.set(kind, `${this.who}, ${at}\n  ${what.slice(0, 800)}\n  after: ${this.steps.slice(-8).join(' › ')}`);
    console.log(`\n${found.get(kind)}`);
  }

  private async any(within: Locator, selector: string): Promise<Locator | null> {
    const all = within.locator(selector).filter({ visible: true });
    const count = await all.count();
    return count === 0 ? null : all.nth(random.int(0, count - 1));
  }

  private async step(): Promise<void> {
    const { page } = this;
    const open = page.locator(over);
    const within = (await open.count()) > 0 && random.chance(0.8) ? open.last() : page.locator('body');
    const chance = random.next();
    if (chance < 0.65) {
      const target = await this.any(within, pressed);
      if (!target) return page.keyboard.press('Escape');
      const [label, text, href] = await Promise.all([
        target.getAttribute('aria-label'),
        target.innerText(),
        target.getAttribute('href'),
      ]);
      // Whoever is out, or at another's site, finds nothing more.
      if (/sign out/i.test(label ?? text) || /^(?:mailto|tel|https?):/.test(href ?? '')) return;
      this.steps.push(`press “${(label ?? text).slice(0, 40)}”`);
      await target.click({ timeout: 1500 });
    } else if (chance < 0.83) {
      const target = await this.any(within, filled);
      const text = random.pick(texts);
      this.steps.push(`type “${text.slice(0, 20)}”`);
      await target?.fill(text, { timeout: 1500 });
      if (random.chance(0.4)) await page.keyboard.press('Enter');
    } else if (chance < 0.94) {
      const key = random.pick(keys);
      this.steps.push(key);
      await page.keyboard.press(key);
    } else {
      const isBack = random.chance(0.6);
      this.steps.push(isBack ? 'back' : 'reload');
      await (isBack ? page.goBack({ timeout: 5000 }) : page.reload({ timeout: 10_000 }));
    }
  }

  async go(start: string, most: number): Promise<void> {
    const body = this.page.locator('body');
    for (let i = 0; i < most && Date.now() < until; i++) {
      // What was there a moment ago may be gone.
      await this.step().catch(() => undefined);
      if (!this.page.url().startsWith(base)) await this.page.goto(start);
      const text = await body.innerText();
      const [word] = odd.exec(text) ?? [];
      if (word !== undefined) this.tell(`words: ${text.slice(0, text.indexOf(word) + 40).slice(-120)}`);
      // A page that is on its way has a moment.
      if (text.trim() === '' && !(await fillsSoon(body))) this.tell('a page with nothing on it');
    }
  }
}

const fillsSoon = (body: Locator): Promise<boolean> =>
  body
    .filter({ hasText: /\S/ })
    .waitFor({ timeout: 15_000 })
    .then(
      () => true,
      () => false,
    );

const { base, end } = await served();
const browser = await chromium.launch(chromiumOptions);
let rounds = 0;
try {
  const door = (await (await fetch(`${base}/api/portals/alder-fen/door`)).json()) as {
    demo: { people: { email: string }[] };
  };
  const people = door.demo.people.map(({ email }) => email);
  for (; Date.now() < until; rounds++) {
    const who = rounds % 3 === 0 ? null : random.pick(people);
    const context = await browser.newContext({
      baseURL: base,
      viewport: random.chance(0.3) ? { width: 390, height: 780 } : { width: 1280, height: 800 },
      colorScheme: random.pick(['light', 'dark']),
      timezoneId: random.pick(['Europe/London', 'Pacific/Auckland', 'America/St_Johns']),
    });
    const page = await context.newPage();
    const start = who === null ? `/build/${random.pick(['alder-fen', 'fen-fresh'])}` : '/p/alder-fen';
    await (who === null ? signInAsBuilder(page) : signIn(page, who));
    if (who === null) await page.goto(start);
    await new Walk(page, who ?? 'builder').go(start, 50);
    await context.close();
  }
} finally {
  await browser.close();
  await end();
}
console.log(`\n${rounds} walks, ${found.size} found`);
process.exitCode = found.size === 0 ? 0 : 1;
