import type Joi from 'joi';

type Say = (context: Record<string, unknown>) => string;

const count = (context: Record<string, unknown>, one: string, many: string): string =>
  `${String(context.limit)} ${Number(context.limit) === 1 ? one : many}`;

/** What is wrong with an input, by the kinds of faults that a schema finds. */
const sentences: Record<string, Say> = {
  'any.required': () => 'is missing',
  'any.unknown': () => 'has no place here',
  'any.invalid': () => "can't be used here",
  'any.only': ({ valids }) =>
    `takes only ${(valids as unknown[]).map((each) => (each === '' ? 'nothing' : String(each))).join(', ')}`,
  'own words': ({ says }) => String(says),
  'any.custom': () => "can't be used here",
  'object.unknown': () => "isn't known here",
  'object.base': () => "isn't a set of named values",
  'object.min': (context) => `needs ${count(context, 'entry', 'entries')} or more`,
  'object.max': (context) => `may have ${count(context, 'entry', 'entries')} at most`,
  'object.missing': ({ peers }) => `needs one of ${(peers as string[]).join(', ')}`,
  'object.xor': ({ peers }) => `takes only one of ${(peers as string[]).join(', ')}`,
  'object.and': ({ missing }) => `also needs ${(missing as string[]).join(', ')}`,
  'object.with': ({ peer }) => `also needs ${String(peer)}`,
  'object.without': ({ peer }) => `can't stand beside ${String(peer)}`,
  'string.base': () => "isn't text",
  'string.empty': () => 'is empty',
  'string.min': (context) => `is shorter than ${count(context, 'character', 'characters')}`,
  'string.max': (context) => `is longer than ${count(context, 'character', 'characters')}`,
  'string.length': (context) => `hasn't ${count(context, 'character', 'characters')}`,
  'string.pattern.name': ({ name }) => `isn't written as ${String(name)}`,
  'string.pattern.base': () => "isn't written as it is taken here",
  'string.email': () => "isn't an e-mail address, like ada@example.org",
  'string.hostname': () => "isn't the name of a host, like db.example.org",
  'string.hex': () => "isn't written in the digits 0 to 9 and a to f",
  'string.isoDate': () => "isn't a date and time, like 2026-11-24T09:30:00Z",
  'string.trim': () => 'begins or ends with a space',
  'number.base': () => "isn't a number",
  'number.integer': () => "isn't a whole number",
  'number.unsafe': () => 'is too large a number',
  'number.infinity': () => 'is too large a number',
  'number.min': ({ limit }) => `is less than ${String(limit)}`,
  'number.max': ({ limit }) => `is more than ${String(limit)}`,
  'number.port': () => "isn't a port from 0 to 65535",
  'boolean.base': () => "isn't true or false",
  'array.base': () => "isn't a list",
  'array.min': (context) => `needs ${count(context, 'entry', 'entries')} or more`,
  'array.max': (context) => `may have ${count(context, 'entry', 'entries')} at most`,
  'array.length': (context) => `hasn't ${count(context, 'entry', 'entries')}`,
  'array.unique': ({ pos, dupePos }) => `is there twice: entries ${Number(dupePos) + 1} and ${Number(pos) + 1}`,
  'array.sparse': () => 'has an empty entry',
};

/** A fault that a schema's own check found, in words to stand after its place: Joi would read signs in them. */
export const faultSaid = ({ error }: Joi.CustomHelpers, says: string): Joi.ErrorReport => error('own words', { says });

/** The reason of one fault in our words, to stand after its place. */
export function sayFault({ type, context = {} }: Pick<Joi.ValidationErrorItem, 'type' | 'context'>): string {
  return sentences[type]?.(context) ?? (type.startsWith('date.') ? "isn't a date" : "has a form that isn't taken here");
}

/** The place of a fault as people count: `columns 3, choices 1`. Empty for the whole. */
export function placeInWords(path: readonly (string | number)[]): string {
  return path.reduce<string>(
    (said, part) =>
      typeof part === 'number'
        ? `${said}${said === '' ? 'entry' : ''} ${part + 1}`
        : `${said}${said === '' ? '' : ', '}${part}`,
    '',
  );
}
