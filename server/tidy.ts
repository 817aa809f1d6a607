import { forgetOldHistory } from './history/forget-history';
import { forgetOldFiles } from './files/stored-file';
import { Jobs } from './jobs/jobs';
import { forgetOldPresses } from './presses/presses';
import { forgetOldTurnedAway } from './forms/at-the-public-form';
import { forgetOldCalls } from './outside/call-outbox';
import { forgetOldMails } from './outbox/outbox';
import { inTurns, type Turns } from './outbox/turns';
import { forgetOldLinks } from './people/links';
import { forgetOldSessions } from './sessions/sessions';
import { SignUps } from './sign-up/sign-ups';
import { forgetOldRuns } from './timed/runs';
import { forgetOldHandOvers } from './stewards/hand-overs';
import { DoorCalls } from './sign-in/door-calls';
import { forgetOldTickets } from './sign-in/tickets';

const every = 10 * 60_000;

/** Forgets what has had its time: files, jobs, mails, links, sessions, and what was begun at doors and not ended. */
export function tidy(): Turns {
  const turns = inTurns(async () => {
    const now = new Date();
    await Promise.all([
      forgetOldFiles(now),
      Jobs.forgetOld(now),
      forgetOldMails(now),
      forgetOldCalls(now),
      forgetOldLinks(now),
      forgetOldTickets(now),
      forgetOldSessions(now),
      DoorCalls.forgetOld(now),
      forgetOldHandOvers(now),
      forgetOldPresses(now),
      forgetOldTurnedAway(now),
      forgetOldRuns(now),
      forgetOldHistory(now),
      SignUps.forgetOld(now),
    ]);
  }, every);
  turns.wake();
  return turns;
}
