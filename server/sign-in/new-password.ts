import { Problem } from '../../core/refusals/problem';
import { passwordProblem, shortestPassword } from '../../core/sign-in/password-rules';
import { InvalidValues } from '../gate/gate';
import { commonPasswords } from '../sessions/common-passwords';
import type { Doorway, Person } from './doorway';

/** Throws InvalidValues where a password is none that somebody may choose at a door. */
export async function refuseWeakPassword(at: Doorway, person: Person, password: string): Promise<void> {
  const shortest = (await at.asksSecond(person)) ? shortestPassword.besideAnother : shortestPassword.alone;
  const owner = { name: person.name, email: person.email, portal: at.title };
  const problem = passwordProblem(password, owner, await commonPasswords(), shortest);
  if (problem !== null) throw new InvalidValues({ password: problem });
}

/** Throws where a link of a mail lets nobody in: what it proves is none of the door's ways. */
export function refuseNotByMail({ rules: { methods } }: Doorway): void {
  if (!methods.includes('code'))
    throw new Problem(409, 'sign-in', `Sign in with ${methods.join(' or ')}; the link is not needed.`);
}
