import type { Page as Tab } from '@playwright/test';

/**
 * What runs in the page itself, on its own clock: given as text, since nothing of ours may stand in a function that is
 * sent to the browser.
 */
const watches = `
  let patched = 0;
  const asks = window.fetch;
  window.fetch = async (...asked) => {
    const answer = await asks(...asked);
    if (asked[1]?.method === 'PATCH') patched++;
    return answer;
  };
  window.watchEdit = (text) => {
    window.edited = {};
    const patchedBefore = patched;
    addEventListener('keydown', () => {
      const from = performance.now();
      const look = () => {
        const row = document.querySelector('[data-list] tbody tr');
        const stands = row.textContent.includes(text) && !row.querySelector('input:not([type=checkbox])');
        const busy = row.querySelector('[aria-busy]') !== null;
        if (stands && window.edited.shown === undefined) window.edited.shown = performance.now() - from;
        if (patched > patchedBefore && stands && !busy) window.edited.kept = performance.now() - from;
        else requestAnimationFrame(look);
      };
      requestAnimationFrame(look);
    }, { capture: true, once: true });
  };
  window.scrollLines = (lines) => {
    const grid = document.querySelector('[role=grid]');
    const box = grid.closest('.overflow-auto') ?? grid;
    const head = box.querySelector('[role=row][aria-rowindex="2"]').offsetHeight;
    window.scrolled = { frames: [], done: false };
    let before = performance.now();
    const step = () => {
      const now = performance.now();
      window.scrolled.frames.push(now - before);
      before = now;
      if (box.scrollTop >= lines * head) window.scrolled.done = true;
      else {
        box.scrollTop += head * 12;
        requestAnimationFrame(step);
      }
    };
    requestAnimationFrame(step);
  };
`;

interface Watched {
  watchEdit(text: string): void;
  edited: { shown?: number; kept?: number };
  scrollLines(lines: number): void;
  scrolled: { frames: number[]; done: boolean };
}

declare global {
  // What the text above gives the page.
  // oxlint-disable-next-line typescript/no-empty-interface
  interface Window extends Watched {}
}

/** To be called before the tab goes anywhere. */
export const watchAtWork = (tab: Tab): Promise<unknown> => tab.addInitScript({ content: watches });

/**
 * Milliseconds from Enter until a fee that was changed in the list stands there, and until it is kept, for each of so
 * many changes.
 */
export async function editsInPlace(tab: Tab, times: number): Promise<{ shown: number[]; kept: number[] }> {
  await tab.goto('/p/alder-fen/all-visits');
  const row = tab.locator('[data-list] tbody tr').first();
  const taken = { shown: [] as number[], kept: [] as number[] };
  for (let i = 0; i < times; i++) {
    await row.getByRole('button', { name: /^Change Fee of / }).focus();
    await tab.keyboard.press('Enter');
    const text = `${120 + i}.${i % 2 ? '25' : '75'}`;
    await row.getByRole('textbox', { name: /^Fee of / }).fill(text);
    await tab.evaluate((sought) => window.watchEdit(sought), text);
    await tab.keyboard.press('Enter');
    await tab.waitForFunction(() => window.edited.kept !== undefined, undefined, { polling: 'raf', timeout: 60_000 });
    const { shown, kept } = await tab.evaluate(() => window.edited);
    taken.shown.push(shown!);
    taken.kept.push(kept!);
  }
  return taken;
}

/** Milliseconds between the frames in which so many lines of the bench's grid are scrolled through. */
export async function scrolledFrames(tab: Tab, lines: number): Promise<number[]> {
  await tab.goto('/build/alder-fen/data/visits');
  await tab.getByRole('button', { name: 'Rows', exact: true }).click();
  await tab.getByRole('grid').getByRole('row').nth(5).waitFor();
  return framesOf(tab, lines);
}

/** The same of a page that has the lines from the start, one text each, and nothing else: what the browser takes. */
export async function plainFrames(tab: Tab, lines: number): Promise<number[]> {
  const all = Array.from(
    { length: lines + 50 },
    (_, i) =>
      `<div role=row aria-rowindex=${i + 1} style="position:absolute;top:${i * 32}px;height:32px">` +
      `${`line ${i} `.repeat(12)}</div>`,
  );
  const inside = `<div style="height:${(lines + 50) * 32}px;position:relative">${all.join('')}</div>`;
  await tab.setContent(`<div role=grid class=overflow-auto style="height:640px;overflow:auto">${inside}</div>`);
  return framesOf(tab, lines);
}

async function framesOf(tab: Tab, lines: number): Promise<number[]> {
  await tab.evaluate((count) => window.scrollLines(count), lines);
  await tab.waitForFunction(() => window.scrolled.done, undefined, { polling: 200, timeout: 240_000 });
  return tab.evaluate(() => window.scrolled.frames);
}
