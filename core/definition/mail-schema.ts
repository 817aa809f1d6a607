import Joi from 'joi';

/** The words of a mail: a subject of one line, and Markdown. */
export const mailWordsSchema = {
  subject: Joi.string()
    .trim()
    .min(1)
    .max(200)
    .pattern(/^[^\r\n]*$/, 'one line')
    .required(),
  text: Joi.string().min(1).max(10_000).required(),
};
