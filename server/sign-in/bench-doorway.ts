import type { Entry } from '../http/endpoint';
import type { CoreServices } from '../definitions/portal-services';
import { normaliseEmail } from '../../core/text/email';
import { builderCookie, builderCookiePath } from '../sessions/as-builder';
import { builderMail, makeBuilderLink } from '../sessions/builder-links';
import { readBuilderRules } from '../sessions/builder-rules';
import { Builder } from '../store/models';
import { SecondFactor } from '../store/people-models';
import type { Doorway, Person } from './doorway';

/** The door of the bench. */
export const atBenchDoor = (services: CoreServices): Entry<{ at: Doorway }> => ({
  needs: null,
  open: async () => ({ at: await benchDoorway(services) }),
});

export const builderPersonAtDoor = async ({ id, name, email, passwordHash }: Builder): Promise<Person> => ({
  subject: { builderId: id },
  name,
  email,
  passwordHash,
  hasSecondFactor: await hasSecondFactor(id),
});

const hasSecondFactor = async (builderId: number): Promise<boolean> =>
  (await SecondFactor.count({ where: { builderId } })) > 0;

/** How those who build come in, by what owners set. */
export async function benchDoorway({ outbox }: Pick<CoreServices, 'outbox'>): Promise<Doorway> {
  const rules = await readBuilderRules();
  const one = async (where: { id: number } | { email: string }): Promise<Person | null> => {
    const builder = await Builder.findOne({ where: { ...where, suspended: false } });
    if (builder) return builderPersonAtDoor(builder);
    // The same work for an address that nobody has.
    await hasSecondFactor(0);
    return null;
  };
  const update = async (person: Person, values: Partial<Pick<Builder, 'lastIn' | 'passwordHash'>>): Promise<void> =>
    void (await Builder.update(values, { where: { id: idOf(person) } }));
  const personOf = (email: string) => one({ email: normaliseEmail(email) });
  return {
    // No portal's address has such a letter.
    key: '~bench',
    portalId: null,
    title: 'Stone Porch',
    face: null,
    openTo: null,
    isPublic: false,
    rules,
    page: '',
    api: builderCookiePath,
    cookie: builderCookie,
    saidCookie: 'stone_porch_bench_said',
    personOf,
    comeOf: personOf,
    known: (subject) => ('builderId' in subject ? one({ id: subject.builderId }) : Promise.resolve(null)),
    asksSecond: async (person) => {
      const { right } = await Builder.findByPk(idOf(person), { rejectOnEmpty: true });
      return rules.secondFactor?.includes(right) ?? false;
    },
    cameIn: (person) => update(person, { lastIn: new Date() }),
    savePassword: (person, passwordHash) => update(person, { passwordHash }),
    queueCode: async (person, code, until, transaction) => {
      const says =
        'your code to sign in where portals are built is the one below. It works once, for ten minutes. Nobody of ' +
        'ours will ever ask you for it. If you did not ask for it, you need do nothing.';
      await outbox.queue([builderMail(person, 'Your code for Stone Porch', says, code, until)], transaction);
    },
    queuePasswordLink: async (person, transaction) => {
      const link = await makeBuilderLink(idOf(person), 'forgotten', transaction);
      const says =
        'somebody, you we hope, asked for a new password where portals are built. Choose it by the link below, ' +
        'within half an hour. If it was not you, do nothing: your password stays as it is.';
      await outbox.queue([builderMail(person, 'A new password for Stone Porch', says, link)], transaction);
    },
  };
}

const idOf = ({ subject }: Person): number => ('builderId' in subject ? subject.builderId : 0);
