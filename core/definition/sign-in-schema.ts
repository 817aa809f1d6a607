import Joi from 'joi';
import { faultSaid } from '../refusals/say-fault';
import { signInMethods, signInProblem, type SignInRules } from '../sign-in/sign-in-rules';
import { label } from './name-schema';

/** Rules of signing in; `askedOf` is what names those of whom a second factor is asked. */
export const signInSchema = (askedOf: Joi.Schema): Joi.ObjectSchema<SignInRules> =>
  Joi.object<SignInRules>({
    methods: Joi.array()
      .items(Joi.valid(...signInMethods))
      .unique()
      .min(1)
      .required(),
    idleMinutes: Joi.number().integer().min(5).max(43_200),
    lastsHours: Joi.number().integer().min(1).max(8760),
    linkDays: Joi.number().integer().min(1).max(60),
    provider: Joi.object({
      label: label.min(1).required(),
      issuer: Joi.string()
        .uri({ scheme: ['https', 'http'] })
        .max(500)
        .required(),
      clientId: Joi.string().min(1).max(300).required(),
      emailClaim: Joi.string().min(1).max(100),
    }),
    secondFactor: Joi.array().items(askedOf).unique().min(1).max(100),
  }).custom((rules: SignInRules, helpers) => {
    const problem = signInProblem(rules);
    return problem === null ? rules : faultSaid(helpers, problem);
  });
