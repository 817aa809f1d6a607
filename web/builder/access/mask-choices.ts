import type { Mask, MaskStyleName } from '../../../core/mask/mask';

/** What stays of a value, in the words of the chooser, and the settings that a style starts with. */
export const maskChoices: Record<MaskStyleName, { words: string; start: Mask }> = {
  all: { words: 'nothing', start: { style: 'all' } },
  'stand-in': { words: 'a stand-in', start: { style: 'stand-in' } },
  'keep last': { words: 'the last characters', start: { style: 'keep last', count: 4 } },
  'keep first': { words: 'the first characters', start: { style: 'keep first', count: 4 } },
  'keep both ends': { words: 'both ends', start: { style: 'keep both ends', first: 2, last: 2 } },
  card: { words: 'ends of a card number', start: { style: 'card', first: 6, last: 4 } },
  'e-mail': { words: "the e-mail's domain", start: { style: 'e-mail', show: 'first letter' } },
  initials: { words: 'the initials', start: { style: 'initials' } },
  year: { words: 'the year', start: { style: 'year' } },
  month: { words: 'the month', start: { style: 'month' } },
  age: { words: 'the age, 90 and over as one', start: { style: 'age' } },
  area: { words: 'the start of the postcode', start: { style: 'area', count: 3 } },
  'ZIP area': { words: 'three digits of the ZIP code', start: { style: 'ZIP area' } },
  step: { words: 'the step it lies in', start: { style: 'step', size: '100' } },
  round: { words: 'the rounded number', start: { style: 'round', digits: 0 } },
};
