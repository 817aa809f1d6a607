import { createHash } from 'node:crypto';
import { Op } from 'sequelize';
import type { SignUp } from '../../core/definition/sign-up';
import { rosterEmail } from '../../core/people/roster-email';
import { isOfDomains } from '../../core/text/email';
import type { CoreServices } from '../definitions/portal-services';
import { isOnRoster } from '../people/on-roster';
import { rostersOf } from '../people/rosters-at';
import { mailOf } from '../people/secret-mail';
import { OutboxMail } from '../store/people-models';
import type { Published } from './sign-ups';

/** What becomes of an address that somebody typed. */
export const typedOutcomes = [
  'sent',
  'no address',
  'not of its domains',
  'known already',
  'written to before',
] as const;

export interface TypedOutcome {
  address: string;
  outcome: (typeof typedOutcomes)[number];
}

const kind = 'sign-up invitation';

/**
 * Sends the link of a sign-up to addresses that stand on no roster, each once; says of every address what became of it.
 * Nothing is kept of whoever does not come.
 */
export async function inviteTyped(
  services: CoreServices,
  { portal, definition, catalogue }: Published,
  signUp: SignUp,
  link: string,
  typed: readonly string[],
): Promise<TypedOutcome[]> {
  const { source: runner } = await services.sources.of(definition);
  const rosters = await rostersOf(services, definition);
  const outcomeOf = async (address: string): Promise<TypedOutcome['outcome']> => {
    const read = rosterEmail(address);
    if ('fault' in read) return 'no address';
    if (!isOfDomains(read.email, signUp.domains)) return 'not of its domains';
    if (await isOnRoster(rosters, read.email)) return 'known already';
    const onceKey = onceFor(portal.id, signUp.id, read.email);
    if ((await OutboxMail.count({ where: { onceKey, state: { [Op.ne]: 'given up' } } })) > 0)
      return 'written to before';
    await OutboxMail.destroy({ where: { onceKey } });
    const order = { kind, recipient: read.email, secret: link, until: null, member: null } as const;
    const mail = await mailOf({ runner, catalogue, definition }, portal, order);
    await services.outbox.queue([{ ...mail, onceKey }]);
    return 'sent';
  };
  const outcomes: TypedOutcome[] = [];
  for (const address of typed) outcomes.push({ address, outcome: await outcomeOf(address) });
  return outcomes;
}

const onceFor = (portalId: number, signUp: string, email: string): string =>
  createHash('sha256').update(`${portalId}\n${signUp}\n${email}`).digest('hex');
