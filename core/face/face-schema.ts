import Joi from 'joi';
import { faultSaid } from '../refusals/say-fault';
import { isOutside } from '../text/outside-address';
import { isEmbedding } from './embedding';
import { cornerStyles, densities, themes, typePairs } from './face';
import { logoProblem } from './logo';
import { stylesheetProblem } from './stylesheet';

export const colourText = Joi.string().pattern(/^#[0-9a-f]{6}$/i, 'a colour like #1f5f85');

export const outsideAddress = Joi.string()
  .max(2000)
  .custom((address: string, helpers) =>
    isOutside(address)
      ? address
      : faultSaid(helpers, 'must be a whole address that begins with https:, http:, mailto: or tel:'),
  );

/** Where a portal may stand in a frame: sites as their pages' addresses begin. */
export const embeddingOrigins = Joi.array()
  .items(
    Joi.string()
      .max(300)
      .custom((origin: string, helpers) =>
        isEmbedding(origin)
          ? origin
          : faultSaid(helpers, 'must be a site like https://www.example.org, with nothing behind it'),
      ),
  )
  .unique()
  .min(1)
  .max(10);

export const faceSchema = Joi.object({
  accent: colourText,
  ground: colourText,
  type: Joi.valid(...typePairs),
  corners: Joi.valid(...cornerStyles),
  density: Joi.valid(...densities),
  theme: Joi.valid(...themes),
  logo: Joi.string().custom((text: string, helpers) => {
    const problem = logoProblem(text);
    return problem === null ? text : faultSaid(helpers, problem);
  }),
  welcome: Joi.string().trim().min(1).max(600),
  homeName: Joi.string().trim().min(1).max(30),
  stylesheet: Joi.string().custom((text: string, helpers) => {
    const problem = stylesheetProblem(text);
    return problem === null ? text : faultSaid(helpers, problem);
  }),
  footer: Joi.array()
    .items(Joi.object({ label: Joi.string().trim().min(1).max(60).required(), address: outsideAddress.required() }))
    .min(1)
    .max(8),
});
