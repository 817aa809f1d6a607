import { expect as playwrights, type ExpectMatcherState, type Locator } from '@playwright/test';

/** What says something of one element, which has to be there. */
const ofElement = [
  'toBeVisible',
  'toHaveText',
  'toContainText',
  'toHaveValue',
  'toHaveAttribute',
  'toBeFocused',
  'toBeChecked',
  'toBeEnabled',
  'toBeDisabled',
  'toHaveJSProperty',
  'toHaveAccessibleName',
  'toHaveCSS',
] as const;

/**
 * Playwright's, but that it waits for an element to be there before it looks what is to be said of it: at each look
 * that finds none Playwright writes down the whole page, and most looks find none at first.
 */
export const expect = playwrights.extend(
  Object.fromEntries(ofElement.map((name) => [name, whenThere(name)])),
) as typeof playwrights;

function whenThere(name: (typeof ofElement)[number]) {
  return async function (this: ExpectMatcherState, locator: Locator, ...said: [unknown?, ...unknown[]]) {
    // Of a list of texts there may be none.
    const { timeout = this.timeout } = (said.at(-1) ?? {}) as { timeout?: number };
    if (!this.isNot && !Array.isArray(said[0]))
      await locator.waitFor({ state: 'attached', timeout }).catch(() => undefined);
    const look = this.isNot ? playwrights(locator).not : playwrights(locator);
    await (look[name] as (...all: unknown[]) => Promise<void>)(...said);
    return { pass: !this.isNot, message: () => '' };
  };
}
