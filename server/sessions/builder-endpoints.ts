import Joi from 'joi';
import type { CoreServices } from '../definitions/portal-services';
import { form, said } from '../http/answers';
import { endpoint } from '../http/endpoint';
import { asBuilder } from './as-builder';
import { builderRights, type BuilderRight } from './builder-rights';

/** Says who is at the bench. */
export function builderEndpoints(services: CoreServices) {
  return {
    builder: endpoint({
      method: 'GET',
      path: '/me',
      says: 'Says which builder is signed in.',
      entry: asBuilder(services),
      answers: {
        200: form<{ name: string; email: string; right: BuilderRight }>({
          name: said,
          email: said,
          right: Joi.valid(...builderRights),
        }),
      },
      does: ({ builder: { name, email, right } }) => Promise.resolve({ name, email, right }),
    }),
  };
}
