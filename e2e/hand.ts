import type { Locator, Page } from '@playwright/test';
import { expect } from './expect';

/** A hand that counts what it does: presses, keys, texts, files. A choice is two: it is opened and taken. */
export class Hand {
  made = 0;
  constructor(readonly page: Page) {}
  press(on: Locator): Promise<void> {
    this.made++;
    return on.click();
  }
  key(keys: string): Promise<void> {
    this.made++;
    return this.page.keyboard.press(keys);
  }
  /** From one of a run to the last of it. */
  async pressTo(on: Locator): Promise<void> {
    this.made++;
    await on.click({ modifiers: ['Shift'] });
  }
  async choose(on: Locator, option: string | RegExp): Promise<void> {
    this.made += 2;
    // The browser's own list stands there until ours is loaded.
    await expect(on).toHaveJSProperty('tagName', 'BUTTON');
    await on.click();
    await this.page.getByRole('option', { name: option, exact: typeof option === 'string' }).click();
  }
  async write(on: Locator, text: string): Promise<void> {
    this.made++;
    await on.fill(text);
    await on.blur();
  }
  file(on: Locator, name: string, mimeType: string, content: string | Buffer): Promise<void> {
    this.made++;
    return on.setInputFiles({ name, mimeType, buffer: Buffer.from(content) });
  }
}
