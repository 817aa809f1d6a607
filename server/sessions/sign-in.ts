import Joi from 'joi';
import { Problem } from '../../core/refusals/problem';

/** What is sent to sign in. */
export const signInBody = Joi.object<{ email: string; password: string }>({
  email: Joi.string().max(254).required(),
  password: Joi.string().max(1000).required(),
});

/** The same words whether the e-mail or the password is wrong. */
export const wrongSignIn = () =>
  new Problem(401, 'wrong-sign-in', 'The e-mail or the password is wrong. Check both and try again.');

export function mustWait(seconds: number): Problem {
  const minutes = Math.ceil(seconds / 60);
  return new Problem(
    429,
    'too-many-tries',
    `Too many wrong tries. Wait ${minutes} ${minutes === 1 ? 'minute' : 'minutes'}, then try again.`,
    { wait: seconds },
    { 'Retry-After': String(seconds) },
  );
}
