import type { PartChange } from '../../../core/definition/parts-changed';

/** A part of the portal that is other, in words. */
export function partWords({ kind, name, change, of }: PartChange): string {
  const what =
    kind === 'setting' ? `The settings of ${name === 'signIn' ? 'signing in' : 'the portal'}` : `${kind} ${name}`;
  const said = what.charAt(0).toUpperCase() + what.slice(1);
  if (change === 'changed') return `${said}: other in ${of.map(inWords).join(', ')}`;
  return `${said}: ${change === 'new' ? 'new' : 'gone'}`;
}

/** A property's name as words: `keepIn` is "keep in". */
const inWords = (key: string): string =>
  key === 'slug' ? 'address' : key.replaceAll(/[A-Z]/g, (letter) => ` ${letter.toLowerCase()}`);
