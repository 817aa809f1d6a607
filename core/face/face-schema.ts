import Joi from 'joi';
import { isOutside } from '../text/outside-address';
import { cornerStyles, densities, themes, typePairs } from './face';
import { logoProblem } from './logo';

export const colourText = Joi.string().pattern(/^#[0-9a-f]{6}$/i, 'a colour like #1f5f85');

export const outsideAddress = Joi.string()
  .max(2000)
  .custom((address: string, { error }) => (isOutside(address) ? address : error('any.invalid')))
  .messages({ 'any.invalid': 'must be a whole address that begins with https:, http:, mailto: or tel:' });

export const faceSchema = Joi.object({
  accent: colourText,
  ground: colourText,
  type: Joi.valid(...typePairs),
  corners: Joi.valid(...cornerStyles),
  density: Joi.valid(...densities),
  theme: Joi.valid(...themes),
  logo: Joi.string().custom((text: string, { message }) => {
    const problem = logoProblem(text);
    return problem === null ? text : message({ custom: `the logo ${problem}` });
  }),
  welcome: Joi.string().trim().min(1).max(600),
  footer: Joi.array()
    .items(Joi.object({ label: Joi.string().trim().min(1).max(60).required(), address: outsideAddress.required() }))
    .min(1)
    .max(8),
});
