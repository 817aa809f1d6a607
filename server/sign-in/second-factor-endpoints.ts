import Joi from 'joi';
import { toString as svgOf } from 'qrcode';
import { Problem } from '../../core/refusals/problem';
import { form, listOf, said } from '../http/answers';
import { endpoint, type Entry } from '../http/endpoint';
import { readCookie } from '../http/security';
import type { Subject } from '../sessions/sessions';
import type { Session } from '../store/people-models';
import { AtDoor, type SignInServices } from './at-door';
import { subjectName, type Doorway } from './doorway';
import type { SecondOutcome } from './second-factor';
import { makeTicket, takeTicket } from './tickets';

const code = Joi.string().max(40).required();
const setUpWithin = 15 * 60_000;

/** A second factor at sign-in and set up by its owner. */
export function secondFactorEndpoints(services: SignInServices, entry: Entry<{ at: Doorway }>) {
  const door = new AtDoor(services);
  return {
    giveSecond: endpoint({
      method: 'POST',
      path: '/second-factor',
      says: 'Gives the code of the second factor, or a recovery code, for a session that lacks it.',
      entry,
      body: Joi.object<{ code: string }>({ code }),
      answers: { 204: null },
      does: async ({ at, body, req, res }) => {
        const found = await door.session(req, at);
        const { subject } = found.person;
        const right = await door.counted(`second factor of ${subjectName(subject)}`, req);
        refuseWrong(await services.secondFactors.take(subject, body.code));
        await right();
        await door.complete(at, found, req, res);
      },
    }),
    beginSecond: endpoint({
      method: 'POST',
      path: '/second-factor/begin',
      says: 'A new key for the app of whoever is signed in. Nothing is kept until a code shows that the app has it.',
      entry,
      answers: {
        200: form<{ ticket: string; secret: string; picture: string }>({ ticket: said, secret: said, picture: said }),
      },
      does: async ({ at, req }) => {
        const { session, person } = await door.session(req, at);
        await refuseReplacing(session, person.subject);
        const { secret, uri } = services.secondFactors.propose(at.title, person.email);
        const browser = readCookie(req, at.cookie)!;
        const ticket = await makeTicket('second factor', at, browser, { secret }, setUpWithin);
        return { ticket, secret, picture: await svgOf(uri, { type: 'svg', margin: 2 }) };
      },
    }),
    setSecond: endpoint({
      method: 'POST',
      path: '/second-factor/set',
      says: 'Sets the second factor up by a code of the app; gives the recovery codes, once.',
      entry,
      body: Joi.object<{ ticket: string; code: string }>({ ticket: Joi.string().max(100).required(), code }),
      answers: { 200: form<{ recovery: string[] }>({ recovery: listOf(said) }) },
      does: async ({ at, body, req, res }) => {
        const found = await door.session(req, at);
        const { session, person } = found;
        await refuseReplacing(session, person.subject);
        const browser = readCookie(req, at.cookie)!;
        const kept = await takeTicket<{ secret: string }>('second factor', at, browser, body.ticket);
        if (!kept) throw new Problem(409, 'second-factor', 'This took too long, or a code was wrong. Begin it again.');
        const outcome = await services.secondFactors.enrol(person.subject, kept.secret, body.code);
        if (typeof outcome === 'string' || 'minutesOff' in outcome) {
          refuseWrong(outcome);
          throw new Problem(409, 'second-factor', 'Begin it again.');
        }
        if (session.lacks !== null) await door.complete(at, found, req, res);
        return outcome;
      },
    }),
  };

  /** Whoever has only half proven who they are sets no new one in the place of one that is there. */
  async function refuseReplacing(session: Session, subject: Subject): Promise<void> {
    if (session.lacks !== null && (await services.secondFactors.has(subject)))
      throw new Problem(403, 'second-factor', 'Give the code of your second factor first.');
  }
}

function refuseWrong(outcome: SecondOutcome): void {
  if (outcome === 'right') return;
  if (outcome === 'used')
    throw new Problem(401, 'wrong-code', 'This code was used already. Wait for the next one, half a minute at most.');
  if (outcome === 'wrong')
    throw new Problem(401, 'wrong-code', 'The code is wrong. Type the one that the app shows now, or a recovery code.');
  const way = outcome.minutesOff > 0 ? 'fast' : 'slow';
  throw new Problem(
    401,
    'wrong-code',
    `The clock of your device is about ${Math.abs(outcome.minutesOff)} minutes ${way}. ` +
      'Let it set its time by itself, and type the code that it then shows.',
  );
}
