import Big from 'big.js';
import Joi from 'joi';
import { maskSigns, type MaskStyleName } from '../mask/style';

const characters = Joi.number().integer().min(1).max(20);
const sign = Joi.valid(...maskSigns);
const amount = Joi.string().pattern(/^\d{1,18}(\.\d{1,6})?$/, 'an amount like 250 or 0.5');

const settings: Record<MaskStyleName, Record<string, Joi.Schema>> = {
  all: { sign },
  initials: {},
  year: {},
  month: {},
  age: {},
  'stand-in': {},
  'keep last': { count: characters.required(), separators: Joi.boolean().strict(), sign },
  'keep first': { count: characters.required(), separators: Joi.boolean().strict(), sign },
  'keep both ends': {
    first: characters.required(),
    last: characters.required(),
    separators: Joi.boolean().strict(),
    sign,
  },
  // PCI DSS v4.0.1, requirement 3.4.1: at most the first six and the last four.
  card: {
    first: Joi.number().integer().min(0).max(6).required(),
    last: Joi.number().integer().min(0).max(4).required(),
    sign,
  },
  'e-mail': { show: Joi.valid('first letter', 'domain').required(), sign },
  area: { count: characters.required(), sign },
  'ZIP area': {
    small: Joi.array()
      .items(Joi.string().pattern(/^\d{3}$/, 'three digits'))
      .min(1)
      .unique(),
  },
  step: {
    size: amount.invalid('0'),
    edges: Joi.array()
      .items(Joi.string().pattern(/^-?\d{1,18}(\.\d{1,6})?$/, 'an amount like 250 or 0.5'))
      .min(1)
      .max(50),
  },
  round: { digits: Joi.number().integer().min(-6).max(6).required() },
};

export const maskSchema = Object.entries(settings).reduce(
  (schema, [style, more]) =>
    schema.when(Joi.object({ style }).unknown(), {
      then: style === 'step' ? Joi.object(more).xor('size', 'edges').custom(ascending) : Joi.object(more),
    }),
  Joi.object({ style: Joi.valid(...Object.keys(settings)).required() }),
);

function ascending(step: { size?: string; edges?: string[] }): typeof step {
  const sound = step.edges
    ? step.edges.every((edge, i) => i === 0 || new Big(edge).gt(step.edges![i - 1]!))
    : new Big(step.size!).gt(0);
  if (!sound) throw new Error(step.edges ? 'the edges of the steps must ascend' : 'a step must be more than 0');
  return step;
}
