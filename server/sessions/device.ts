import { getParser } from 'bowser';

/** What a browser said of itself, as people know it: "Firefox on Linux"; null where it said nothing that is known. */
export function deviceName(said: string | null): string | null {
  if (!said) return null;
  const { browser, os } = getParser(said).getResult();
  const parts = [browser.name, os.name].filter((part) => part !== undefined && part !== '');
  return parts.length === 0 ? null : parts.join(' on ');
}
