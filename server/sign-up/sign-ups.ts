import { randomBytes } from 'node:crypto';
import { Op, type Transaction } from 'sequelize';
import { askedOf, newcomerPerson, signUpDefinition, signUpOver } from '../../core/people/sign-ups';
import type { PortalDefinition } from '../../core/definition/definition';
import type { SignUp } from '../../core/definition/sign-up';
import { Problem } from '../../core/refusals/problem';
import { signInRules } from '../../core/sign-in/sign-in-rules';
import { findColumn, findTable, isNeeded, type Catalogue } from '../../core/table/catalogue';
import { parseValue } from '../../core/table/value';
import { normaliseEmail } from '../../core/text/email';
import { writeAudit } from '../audit/audit';
import type { CoreServices } from '../definitions/portal-services';
import { historyKeeper } from '../leaving/keep-history';
import { at, create, InvalidValues, NotFound, Refused, type PlacedVisit } from '../gate/gate';
import { readAddress } from '../mail/own-address';
import { answeredBefore, inTurns, type Turns } from '../outbox/turns';
import { bringInLine } from '../people/bring-in-line';
import { linkAddress, makeLinks } from '../people/links';
import { mailOf } from '../people/secret-mail';
import { isOnRoster } from '../people/on-roster';
import { rostersOf } from '../people/rosters-at';
import { memberAtDoor } from '../sign-in/door';
import type { KnownAtDoor, PortalAtDoor } from '../store/door-sql';
import { comeByDomain } from '../sign-in/open-door';
import { tokenHash } from '../sessions/sessions';
import { Portal } from '../store/models';
import { Member, SignUpRequest } from '../store/people-models';

const hour = 3_600_000;
/** So long an address can be proven, and so many mails it gets within an hour. */
const provenWithin = 24 * hour;
const mostAnHour = 5;
const lookEvery = 5000;
/** Making a row takes no longer, unless its server was killed. */
const enteringLasts = 10 * 60_000;
/** What was refused or led to nobody is forgotten after so long. */
const keptFor = 30 * 24 * hour;

/** What stands for a sign-up where somebody comes by their domain: no id of a sign-up can be it. */
export const byDomain = '~domain';

/** A portal as it is published, opened. */
export interface Published {
  portal: PortalAtDoor;
  definition: PortalDefinition;
  catalogue: Catalogue;
}

/** What came of proving an address. */
export interface Proven {
  /** Whether somebody must agree first. */
  waits: boolean;
  /** By which they come in; null while somebody must agree. */
  token: string | null;
}

/** How somebody who has proven their address goes on, within the hour. */
async function withLink(member: KnownAtDoor): Promise<Proven> {
  const [link] = await makeLinks('invitation', [member], hour);
  return { waits: false, token: link!.token };
}

const over = (reason: string) => new Problem(410, 'sign-up-over', reason);

/**
 * Those who ask to come in by a link. Whoever asks, the same is done and answered: whether the address is somebody's is
 * found out afterwards, where nobody waits for it. What they filled in waits outside the roster until the address is
 * proven and, where somebody must, somebody agreed; then it becomes a row, through the gate.
 */
export class SignUps {
  private turns: Turns | null = null;

  constructor(private readonly services: CoreServices) {}

  async published(portal: PortalAtDoor): Promise<Published> {
    if (portal.publishedVersion === null) throw new NotFound('link');
    const definition = await this.services.definitions.version(portal.id, portal.publishedVersion);
    return { portal, definition, catalogue: (await this.services.sources.of(definition)).catalogue };
  }

  /** Throws a Problem 410 where nobody can ask by it any more. */
  async refuseOver({ portal, definition }: Published, signUp: SignUp): Promise<void> {
    const reason = signUpOver(signUp, await this.used(portal.id, signUp), new Date(), definition.portal.timeZone);
    if (reason !== null) throw over(reason);
  }

  /** Notes that somebody asks; InvalidValues names what can't be taken of what they filled in. */
  async note(published: Published, signUp: SignUp, email: string, values: Record<string, unknown>): Promise<void> {
    const { portal, definition, catalogue } = published;
    const asked = askedOf(definition, catalogue, signUp);
    const table = findTable(catalogue, signUp.roster)!;
    const faults: Record<string, string> = {};
    for (const [name, value] of Object.entries(values)) {
      if (!asked.includes(name)) faults[name] = "This can't be filled in here.";
      else {
        const read = parseValue(findColumn(table, name)!, value);
        if (!read.ok) faults[name] = read.problem;
      }
    }
    for (const name of asked)
      if (isNeeded(findColumn(table, name)!) && !Object.hasOwn(values, name)) faults[name] = 'This needs a value.';
    if (Object.keys(faults).length > 0) throw new InvalidValues(faults);
    await this.tryRow(published, signUp, values);
    await this.keep(portal.id, signUp.id, email, values);
  }

  /** Notes that somebody asks who has an address of a domain that the portal is open to. */
  noteByDomain({ portal }: Published, email: string): Promise<void> {
    return this.keep(portal.id, byDomain, email, {});
  }

  private async keep(portalId: number, signUp: string, email: string, values: object): Promise<void> {
    const now = new Date();
    await SignUpRequest.create({
      portalId,
      signUp,
      email: normaliseEmail(email),
      content: JSON.stringify(values),
      state: 'asked',
      madeAt: now,
      endsAt: new Date(now.getTime() + provenWithin),
    });
    this.turns?.wakeSoon();
  }

  /**
   * Makes the row and takes it back, under an address that is nobody's: what a rule says of it is said at once, and
   * nothing of whether the true address is known.
   */
  private async tryRow(published: Published, signUp: SignUp, values: Record<string, unknown>): Promise<void> {
    const roster = published.definition.rosters.find(({ table }) => table === signUp.roster)!;
    const visit = await this.newcomer(published, signUp);
    const nobody = `${randomBytes(12).toString('hex')}@nobody.invalid`;
    try {
      await create(visit.source, visit, signUp.roster, { ...values, [roster.email]: nobody }, { trial: true });
    } catch (error) {
      if (error instanceof Refused)
        throw over('Nobody can come in by this link at the moment. Tell whoever gave it to you.');
      throw error;
    }
  }

  /** Writes to those who asked, one server or several. */
  begin(): Turns {
    this.turns = inTurns(async (isClosed) => {
      await this.findStopped(new Date()).catch((error: unknown) =>
        this.services.log.warn({ reason: (error as Error).name }, 'stopped sign-ups not looked for'),
      );
      for (;;) {
        const where = { state: 'asked' as const, madeAt: { [Op.lt]: answeredBefore() } };
        const request = await SignUpRequest.findOne({ where, order: [['id', 'ASC']] });
        if (!request || isClosed()) return;
        try {
          await this.answer(request);
        } catch (error) {
          this.services.log.warn({ reason: (error as Error).name }, 'a sign-up not answered');
          return;
        }
      }
    }, lookEvery);
    this.turns.wake();
    return this.turns;
  }

  /**
   * Whoever was being entered when a server was killed is in, where their row was made; else it is as if nobody had
   * tried, and the link or the approver can again.
   */
  async findStopped(now: Date): Promise<void> {
    const stopped = await SignUpRequest.findAll({
      where: { state: 'entering', enteringSince: { [Op.lt]: new Date(now.getTime() - enteringLasts) } },
    });
    for (const request of stopped) {
      const portal = await Portal.findByPk(request.portalId, { rejectOnEmpty: true });
      if (portal.publishedVersion === null) continue;
      const published = await this.published(portal);
      const signUp = published.definition.signUps?.find(({ id }) => id === request.signUp);
      const isIn =
        request.signUp === byDomain
          ? (await Member.count({ where: { portalId: portal.id, email: request.email } })) > 0
          : await this.isKnown(published, request.email);
      const state = isIn ? 'done' : signUp?.approver === undefined ? 'sent' : 'waiting';
      await SignUpRequest.update({ state }, { where: { id: request.id, state: 'entering' } });
    }
  }

  /**
   * Forgets what was asked and never proven, and after a month what was decided; that somebody came in counts for good
   * where only so many may, but not who.
   */
  static async forgetOld(now: Date): Promise<void> {
    const long = new Date(now.getTime() - keptFor);
    await SignUpRequest.update(
      { email: '', content: '{}', tokenHash: null },
      { where: { state: 'done', madeAt: { [Op.lt]: long }, email: { [Op.ne]: '' } } },
    );
    await SignUpRequest.destroy({
      where: {
        [Op.or]: [
          { state: ['asked', 'sent', 'nobody'], endsAt: { [Op.lt]: now } },
          { state: 'refused', madeAt: { [Op.lt]: long } },
        ],
      },
    });
  }

  /** Takes an address for proven, once: the row is made, or waits for whoever must agree. */
  async prove(portal: PortalAtDoor, given: string): Promise<Proven> {
    const request = await SignUpRequest.findOne({
      where: { portalId: portal.id, tokenHash: tokenHash(given), state: 'sent', endsAt: { [Op.gt]: new Date() } },
    });
    const published = await this.published(portal);
    if (request?.signUp === byDomain) return this.proveByDomain(published, request);
    const signUp = request && published.definition.signUps?.find(({ id }) => id === request.signUp);
    if (!request || !signUp)
      throw new Problem(404, 'link', 'This link was used already, or has ended. Ask to come in once more.');
    if (signUp.approver !== undefined) {
      await this.refuseOver(published, signUp);
      await this.take(request, 'sent', 'waiting');
      return { waits: true, token: null };
    }
    const member = await this.enter(published, signUp, request, 'sent');
    await writeAudit(portal.id, `${member.name} <${member.email}>`, 'came by a sign-up', signUp.name);
    return withLink(member);
  }

  private async proveByDomain({ portal }: Published, request: SignUpRequest): Promise<Proven> {
    await this.take(request, 'sent', 'entering');
    const member = await comeByDomain(this.services, portal, request.email).catch(async (error: unknown) => {
      await this.take(request, 'entering', 'sent');
      throw error;
    });
    if (!member) {
      await this.take(request, 'entering', 'refused');
      throw new Problem(
        409,
        'known',
        'This address does not come in this way. Sign in with it, or ask those who run it.',
      );
    }
    await this.take(request, 'entering', 'done');
    return withLink(member);
  }

  /** Somebody agrees: the row is made, and a mail says so. */
  async agree(portal: PortalAtDoor, request: SignUpRequest, by: string): Promise<void> {
    const published = await this.published(portal);
    const signUp = published.definition.signUps?.find(({ id }) => id === request.signUp);
    if (!signUp) throw new NotFound('request');
    const member = await this.enter(published, signUp, request, 'waiting');
    await request.update({ decided: by });
    await writeAudit(portal.id, by, 'agreed to a sign-up', `${request.email} by ${signUp.name}`);
    const lasts = signInRules(published.definition).linkDays * 24 * hour;
    await this.services.store.sequelize.transaction(async (transaction) => {
      const [link] = await makeLinks('invitation', [member], lasts, transaction);
      const address = linkAddress(await readAddress(portal.id), portal.slug, link!.token);
      const order = { recipient: member.email, secret: address, until: link!.expiresAt, member };
      await this.mail(published, { kind: 'approval', ...order }, transaction);
    });
  }

  /** Somebody does not agree. Nothing is sent. */
  async refuse(portal: PortalAtDoor, request: SignUpRequest, by: string): Promise<void> {
    await this.take(request, 'waiting', 'refused');
    await request.update({ decided: by });
    await writeAudit(portal.id, by, 'refused a sign-up', request.email);
  }

  /** So many have come in by it, or are about to. */
  private used(portalId: number, { id: signUp }: SignUp, transaction?: Transaction): Promise<number> {
    return SignUpRequest.count({ where: { portalId, signUp, state: ['done', 'entering'] }, transaction });
  }

  /** Takes one of the places that a sign-up has, one after the other; a Problem 410 where none is left. */
  private takePlace(
    { portal, definition }: Published,
    signUp: SignUp,
    request: SignUpRequest,
    from: 'sent' | 'waiting',
  ): Promise<void> {
    return this.services.store.sequelize.transaction(async (transaction) => {
      await Portal.findByPk(portal.id, { attributes: ['id'], lock: true, transaction });
      const used = await this.used(portal.id, signUp, transaction);
      const reason = signUpOver(signUp, used, new Date(), definition.portal.timeZone);
      if (reason !== null) throw over(reason);
      await this.take(request, from, 'entering', transaction);
    });
  }

  /** One of those who try at the same moment takes it; the others find it taken. */
  private async take(
    request: SignUpRequest,
    from: SignUpRequest['state'],
    to: SignUpRequest['state'],
    transaction?: Transaction,
  ): Promise<void> {
    const values = to === 'entering' ? { state: to, enteringSince: new Date() } : { state: to };
    const [mine] = await SignUpRequest.update(values, { where: { id: request.id, state: from }, transaction });
    if (mine !== 1) throw new Problem(409, 'taken', 'Somebody else has decided about it in the meantime.');
    await request.reload({ transaction });
  }

  /** Makes the row; what the database or a rule refuses is kept as the reason, and nobody comes in. */
  private async enter(
    published: Published,
    signUp: SignUp,
    request: SignUpRequest,
    from: 'sent' | 'waiting',
  ): Promise<KnownAtDoor> {
    const { portal, definition, catalogue } = published;
    await this.takePlace(published, signUp, request, from);
    try {
      if (await this.isKnown(published, request.email))
        throw new Problem(409, 'known', 'This address can come in already. Sign in with it.');
      const roster = definition.rosters.find(({ table }) => table === signUp.roster);
      if (!roster) throw new NotFound('link');
      const visit = await this.newcomer(published, signUp);
      const asked = askedOf(definition, catalogue, signUp);
      const filled = JSON.parse(request.content) as Record<string, unknown>;
      const values = Object.fromEntries(Object.entries(filled).filter(([name]) => asked.includes(name)));
      await create(visit.source, visit, signUp.roster, { ...values, [roster.email]: request.email });
      await this.take(request, 'entering', 'done');
    } catch (error) {
      const back = error instanceof Problem && error.status === 410 ? from : 'refused';
      const decided = error instanceof Problem ? error.message.slice(0, 500) : 'it could not be entered';
      await SignUpRequest.update({ state: back, decided }, { where: { id: request.id, state: 'entering' } });
      throw error;
    }
    await bringInLine(this.services, portal, { emails: [request.email] });
    const member = await memberAtDoor(this.services, portal, request.email);
    if (!member)
      throw new Problem(409, 'no-member', 'It was entered, but lets nobody in. Ask the people who run this portal.');
    return member;
  }

  /** Under the one right that a newcomer has: to make this row. */
  private async newcomer({ portal, definition, catalogue }: Published, signUp: SignUp): Promise<PlacedVisit> {
    const own = signUpDefinition(definition, catalogue, signUp);
    const opened = await this.services.sources.of(definition);
    const visit = { ...opened, definition: own, person: newcomerPerson, moment: new Date(), portalId: portal.id };
    const history = () => historyKeeper(this.services, { ...visit, changedBy: null });
    return at({ ...visit, history }, signUp.roster);
  }

  private async isKnown({ definition }: Published, email: string): Promise<boolean> {
    return isOnRoster(await rostersOf(this.services, definition), email);
  }

  private async answer(request: SignUpRequest): Promise<void> {
    const portal = await Portal.findByPk(request.portalId, { rejectOnEmpty: true });
    const since = new Date(Date.now() - hour);
    const lately = await SignUpRequest.count({
      where: { portalId: portal.id, email: request.email, state: ['sent', 'nobody'], madeAt: { [Op.gt]: since } },
    });
    if (portal.publishedVersion === null || lately >= mostAnHour) {
      await this.take(request, 'asked', 'nobody');
      return;
    }
    const published = await this.published(portal);
    const { email } = request;
    const wasIn = request.signUp === byDomain && (await Member.count({ where: { portalId: portal.id, email } })) > 0;
    if (wasIn || (await this.isKnown(published, email))) {
      await this.take(request, 'asked', 'nobody');
      const member = await memberAtDoor(this.services, portal, email);
      const door = `${await readAddress(portal.id)}/p/${portal.slug}`;
      // Who is suspended, or shares the address with others, is told nothing: they can't come in.
      if (member)
        await this.mail(published, { kind: 'known already', recipient: email, secret: door, until: null, member });
      return;
    }
    const token = randomBytes(32).toString('base64url');
    await request.update({ tokenHash: tokenHash(token) });
    await this.take(request, 'asked', 'sent');
    const link = `${await readAddress(portal.id)}/p/${portal.slug}/prove#${token}`;
    const order = { recipient: email, secret: link, until: request.endsAt, member: null };
    await this.mail(published, { kind: 'sign-up', ...order });
  }

  /** Queues a mail with a link. */
  private async mail(
    { portal, definition, catalogue }: Published,
    order: Parameters<typeof mailOf>[2],
    transaction?: Transaction,
  ): Promise<void> {
    const { source: runner } = await this.services.sources.of(definition);
    await this.services.outbox.queue([await mailOf({ runner, catalogue, definition }, portal, order)], transaction);
  }
}
