import Joi from 'joi';
import { id, label } from './name-schema';
import { addressProblem } from './outside-address';

export const outsideAddress = Joi.object({
  id: id.required(),
  name: label.min(1).max(60).required(),
  url: Joi.string()
    .trim()
    .max(500)
    .custom((text: string, helpers) => {
      const problem = addressProblem(text);
      return problem === null ? text : helpers.message({ custom: problem });
    })
    .required(),
});
