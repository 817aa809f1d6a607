import { colord, extend } from 'colord';
import a11y from 'colord/plugins/a11y';
import mix from 'colord/plugins/mix';

extend([a11y, mix]);

/** What text needs against what it stands on (WCAG 2.2, 1.4.3, level AA). */
export const textContrast = 4.5;

/** The contrast of two colours `#rrggbb` as WCAG 2.2 reckons it, from 1 to 21, rounded down to two places. */
export const contrast = (one: string, other: string): number => colord(one).contrast(other);

/** So much of the second colour in the first, from 0 to 1. */
export const mixed = (one: string, other: string, share: number): string => colord(one).mix(other, share).toHex();

/**
 * The colour nearest to the given one, on the way to `towards`, that has at least this contrast to every ground; that
 * end itself where none has.
 */
export function readable(
  colour: string,
  grounds: string[],
  towards: '#000000' | '#ffffff',
  least = textContrast,
): string {
  const steps = 50;
  for (let step = 0; step < steps; step++) {
    const tried = mixed(colour, towards, step / steps);
    if (grounds.every((ground) => contrast(tried, ground) >= least)) return tried;
  }
  return towards;
}
