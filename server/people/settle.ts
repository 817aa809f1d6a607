import { Op, type Transaction } from 'sequelize';
import { rosterEmail } from '../../core/people/roster-email';
import {
  planStanding,
  type KnownStanding,
  type MemberStanding,
  type StandingPlan,
  type StandingRow,
} from '../../core/people/standing-plan';
import { isRosterRead, rosterRows, type RosterRow } from '../gate/gate';
import { Member, Membership, PeopleState } from '../store/people-models';
import { endSessionsOf } from '../sessions/sessions';
import { membershipsOf } from './memberships';
import { forgetProofs } from './proofs';
import type { RosterAt } from './rosters-at';

/** Where to begin looking: rows by their roster, members by their number, addresses. */
export interface Cluster {
  rows?: ReadonlyMap<string, Iterable<string>>;
  members?: Iterable<number>;
  emails?: Iterable<string>;
}

/** What happened to a member. */
export interface Settled {
  what: 'came' | 'came back' | 'changed' | 'address changed' | 'went';
  id: number;
  name: string;
  email: string;
}

/**
 * Lets one at a time bring a portal's members in line, on whichever server: held until the end of the transaction.
 */
export async function holdPeople(portalId: number, transaction: Transaction): Promise<PeopleState> {
  await PeopleState.bulkCreate([{ portalId }], { ignoreDuplicates: true, transaction });
  return PeopleState.findByPk(portalId, { transaction, lock: true, rejectOnEmpty: true });
}

/**
 * Brings the members of a cluster in line with their rosters' rows: all that a row or an address of them touches is
 * looked at, and nobody else. Under `holdPeople`. Which addresses stand in several rows of a roster is told by
 * `repeats`, or looked up.
 */
export async function settle(
  portalId: number,
  rosters: readonly RosterAt[],
  cluster: Cluster,
  transaction: Transaction,
  repeats?: ReadonlyMap<string, ReadonlySet<string>>,
): Promise<Settled[]> {
  const { members, rows } = await new Gathering(portalId, rosters, transaction, repeats).gather(cluster);
  const plan = planStanding(
    rosters.map(({ roster }) => roster.table),
    members,
    rows,
  );
  return apply(portalId, members, plan, transaction);
}

/** The address of a row that makes a member, null for one that doesn't. */
export function standingRow(
  roster: string,
  { key, name, email: written, counts }: RosterRow,
  repeats?: ReadonlySet<string>,
): StandingRow | null {
  const found = rosterEmail(written);
  if (!counts || 'fault' in found || repeats?.has(found.email)) return null;
  return { roster, key, email: found.email, name: name.slice(0, 200) };
}

/** Follows rows to their members, members to their rows, and addresses to both, until nothing new is found. */
class Gathering {
  private readonly members = new Map<number, KnownStanding>();
  /** By roster and key. */
  private readonly rows = new Map<string, StandingRow | null>();
  private readonly emails = new Set<string>();

  constructor(
    private readonly portalId: number,
    private readonly rosters: readonly RosterAt[],
    private readonly transaction: Transaction,
    private readonly repeats?: ReadonlyMap<string, ReadonlySet<string>>,
  ) {}

  async gather({ rows, members, emails }: Cluster): Promise<{ members: KnownStanding[]; rows: StandingRow[] }> {
    let keys = new Map([...(rows ?? [])].map(([roster, own]) => [roster, new Set(own)]));
    let ids = [...(members ?? [])];
    let addresses = this.newEmails([...(emails ?? [])].map((email) => ({ email })));
    while (keys.size > 0 || ids.length > 0 || addresses.length > 0) {
      const found = [...(await this.rowsByKey(keys)), ...(await this.rowsByEmail(addresses))];
      const known = [
        ...(await this.known({ id: ids })),
        ...(await this.known({ id: await this.idsOfRows(found) })),
        ...(await this.known({ email: addresses, onRoster: true })),
      ];
      ids = [];
      keys = new Map();
      for (const { roster, key } of known.flatMap((member) => member.rows)) {
        if (this.rows.has(`${roster}\n${key}`)) continue;
        keys.set(roster, (keys.get(roster) ?? new Set()).add(key));
      }
      addresses = this.newEmails([...found, ...known.filter(({ onRoster }) => onRoster)]);
    }
    return {
      members: [...this.members.values()],
      rows: [...this.rows.values()].filter((row) => row !== null),
    };
  }

  private newEmails(of: readonly { email: string }[]): string[] {
    const fresh = [...new Set(of.map(({ email }) => email))].filter((email) => !this.emails.has(email));
    for (const email of fresh) this.emails.add(email);
    return fresh;
  }

  private async rowsByKey(keys: ReadonlyMap<string, ReadonlySet<string>>): Promise<StandingRow[]> {
    const found: StandingRow[] = [];
    for (const [table, own] of keys) {
      const at = this.rosters.find(({ roster }) => roster.table === table);
      const unseen = [...own].filter((key) => !this.rows.has(`${table}\n${key}`));
      if (at && !isRosterRead(at.catalogue, at.roster)) {
        found.push(...this.taken(table, unseen));
        continue;
      }
      for (const key of unseen) this.rows.set(`${table}\n${key}`, null);
      const rows = at ? await rosterRows(at.runner, at.catalogue, at.roster, { keys: unseen }) : [];
      found.push(...this.kept(table, rows ?? []));
    }
    return found;
  }

  /** Of a roster that can't be read now nothing is concluded: its members stay who they are. */
  private taken(table: string, keys: readonly string[]): StandingRow[] {
    const holders = [...this.members.values()].filter(({ onRoster }) => onRoster);
    return keys.flatMap((key) => {
      const holder = holders.find((each) =>
        each.rows.some((row) => row.roster === table && row.key === key && row.holds),
      );
      const row = holder ? { roster: table, key, email: holder.email, name: holder.name } : null;
      this.rows.set(`${table}\n${key}`, row);
      return row ? [row] : [];
    });
  }

  private async rowsByEmail(emails: readonly string[]): Promise<StandingRow[]> {
    if (this.repeats || emails.length === 0) return [];
    const found: StandingRow[] = [];
    for (const { roster, runner, catalogue } of this.rosters)
      found.push(...this.kept(roster.table, (await rosterRows(runner, catalogue, roster, { emails })) ?? []));
    return found;
  }

  private kept(table: string, rows: readonly RosterRow[]): StandingRow[] {
    return rows.flatMap((row) => {
      const standing = standingRow(table, row, this.repeats?.get(table));
      this.rows.set(`${table}\n${row.key}`, standing);
      return standing ? [standing] : [];
    });
  }

  private async idsOfRows(rows: readonly StandingRow[]): Promise<number[]> {
    const { portalId, transaction } = this;
    const ids: number[] = [];
    for (const table of new Set(rows.map(({ roster }) => roster))) {
      const rowKey = rows.filter(({ roster }) => roster === table).map(({ key }) => key);
      const own = await Membership.findAll({ where: { portalId, rosterTable: table, rowKey }, transaction, raw: true });
      ids.push(...own.map(({ memberId }) => Number(memberId)));
    }
    return ids;
  }

  private async known(where: { id: number[] } | { email: string[]; onRoster: true }): Promise<KnownStanding[]> {
    const { portalId, transaction } = this;
    const asked = 'id' in where ? { id: where.id.filter((id) => !this.members.has(id)) } : where;
    if ('id' in asked ? asked.id.length === 0 : asked.email.length === 0) return [];
    const members = (await Member.findAll({ where: { portalId, ...asked }, transaction })).filter(
      ({ id }) => !this.members.has(id),
    );
    const byMember = await membershipsOf(
      members.map(({ id }) => id),
      transaction,
    );
    return members.map(({ id, email, name, onRoster, withoutRow }) => {
      const own = byMember.get(id)!.map(({ rosterTable, rowKey, holds }) => ({
        roster: rosterTable,
        key: rowKey,
        holds: Boolean(holds),
      }));
      const known = { id, email, name, onRoster, rows: own, withoutRow: Boolean(withoutRow) };
      this.members.set(id, known);
      return known;
    });
  }
}

async function apply(
  portalId: number,
  members: readonly KnownStanding[],
  plan: StandingPlan,
  transaction: Transaction,
): Promise<Settled[]> {
  const before = new Map(members.map((member) => [member.id, member]));
  const changed = plan.known.filter((now) => differs(before.get(now.id)!, now));
  // An address is held by one at a time: all are let go before any is taken.
  const moving = changed.filter((now) => !now.onRoster || now.isAddressNew || !before.get(now.id)!.onRoster);
  const letGo = moving.map(({ id }) => id);
  if (letGo.length > 0) {
    await Member.update({ onRoster: false }, { where: { id: letGo }, transaction });
    // Whoever went, came back, or has another address proves anew who they are.
    await endSessionsOf(letGo, transaction);
    const anew = changed.filter(({ isAddressNew }) => isAddressNew).map(({ id }) => id);
    if (anew.length > 0) await forgetProofs(anew, transaction);
  }
  const now = new Date();
  const went = changed.filter(({ id, onRoster }) => !onRoster && before.get(id)!.onRoster).map(({ id }) => id);
  await Member.update({ goneSince: now }, { where: { id: went }, transaction });
  for (const { id, email, name, onRoster } of changed)
    if (onRoster)
      // Whoever has a row now follows that from here on.
      await Member.update(
        { email, name, onRoster, goneSince: null, withoutRow: false },
        { where: { id }, transaction },
      );
  await Membership.destroy({ where: { memberId: changed.map(({ id }) => id) }, transaction });
  await Membership.bulkCreate(
    changed.flatMap(({ id, rows }) => keptRows(portalId, id, rows)),
    { transaction },
  );
  const came = await makeMembers(portalId, plan.fresh, now, transaction);
  return [...changed.map((each) => settledAs(before.get(each.id)!, each)), ...came];
}

function settledAs(
  before: KnownStanding,
  { id, name, email, onRoster, isAddressNew }: StandingPlan['known'][number],
): Settled {
  const what = !onRoster
    ? before.onRoster
      ? 'went'
      : 'changed'
    : !before.onRoster
      ? 'came back'
      : isAddressNew
        ? 'address changed'
        : 'changed';
  return { what, id, name, email };
}

function differs(before: KnownStanding, now: StandingPlan['known'][number]): boolean {
  const rows = (of: readonly { roster: string; key: string; holds?: boolean }[]) =>
    of
      .map(({ roster, key, holds }) => `${roster}\n${key}\n${holds ?? true}`)
      .toSorted()
      .join('\n\n');
  return (
    before.email !== now.email ||
    before.onRoster !== now.onRoster ||
    (now.onRoster && before.name !== now.name) ||
    rows(before.rows) !== rows(now.rows)
  );
}

const keptRows = (portalId: number, memberId: number, rows: MemberStanding['rows']) =>
  rows.map(({ roster, key, holds }) => ({ portalId, memberId, rosterTable: roster, rowKey: key, holds }));

async function makeMembers(
  portalId: number,
  fresh: readonly MemberStanding[],
  knownSince: Date,
  transaction: Transaction,
): Promise<Settled[]> {
  if (fresh.length === 0) return [];
  await Member.bulkCreate(
    fresh.map(({ email, name }) => ({ portalId, email, name, onRoster: true, passwordHash: null, knownSince })),
    { transaction },
  );
  const email = { [Op.in]: fresh.map((each) => each.email) };
  const made = await Member.findAll({ where: { portalId, email, onRoster: true }, transaction });
  const ids = new Map(made.map((member) => [member.email, member.id]));
  await Membership.bulkCreate(
    fresh.flatMap((each) => keptRows(portalId, ids.get(each.email)!, each.rows)),
    { transaction },
  );
  return fresh.map((each) => ({ what: 'came', id: ids.get(each.email)!, name: each.name, email: each.email }));
}
