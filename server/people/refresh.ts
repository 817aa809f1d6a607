import { Op, type Transaction } from 'sequelize';
import { rosterEmail, type EmailFault } from '../../core/people/roster-email';
import { isRosterRead, rosterApart, rosterRepeats, rosterRows, type RosterRow } from '../gate/gate';
import { Member, Membership, type PeopleState } from '../store/people-models';
import { membersOfRows } from '../store/people-sql';
import type { RosterAt } from './rosters-at';
import { holdPeople, settle, standingRow, type Settled } from './settle';

/** Why a row makes no member. */
export type RowFault = EmailFault | 'e-mail of several rows' | 'does not count';

/** What came of a refresh. */
export interface RefreshOutcome {
  came: number;
  /** Came back included. */
  changed: number;
  went: number;
  /** Rows that make no member, by why. */
  left: Record<RowFault, number>;
  /** The first of those to whom something happened. */
  people: Pick<Settled, 'what' | 'name' | 'email'>[];
  /** The first rows that make no member. */
  rows: { roster: string; name: string; email: string; why: RowFault }[];
  /** Rosters that could not be read; their members stay as they are. */
  unread: string[];
}

/** Rows are read and members compared so many at a time, whatever a roster holds. */
const pageSize = 2000;
const namedAtMost = 200;

/**
 * Brings all members in line with the rosters' rows, in the transaction: who came, changed and went. Sends no mail.
 * Memory holds a page of rows at a time, and what differs.
 */
export async function refreshMembers(
  portalId: number,
  rosters: readonly RosterAt[],
  transaction: Transaction,
  progress: (done: number) => Promise<void> = () => Promise.resolve(),
): Promise<RefreshOutcome> {
  const state = await holdPeople(portalId, transaction);
  const outcome = noOutcome();
  const scan = new Scan(portalId, rosters, transaction, outcome, progress);
  await scan.all();
  // Once for whoever stands on several rosters.
  const told = new Set<number>();
  const tell = (settled: readonly Settled[]): void => {
    for (const { what, id, name, email } of settled) {
      if (told.has(id)) continue;
      told.add(id);
      if (what === 'came') outcome.came++;
      else if (what === 'went') outcome.went++;
      else outcome.changed++;
      if (outcome.people.length < namedAtMost) outcome.people.push({ what, name, email });
    }
  };
  // First those who are known, together: addresses may have gone from one to the other.
  tell(await settle(portalId, rosters, { members: scan.members, rows: scan.moved }, transaction, scan.repeats));
  for (const [table, keys] of scan.appeared)
    for (let i = 0; i < keys.length; i += pageSize) {
      const rows = new Map([[table, keys.slice(i, i + pageSize)]]);
      tell(await settle(portalId, rosters, { rows }, transaction, scan.repeats));
      await progress(scan.done);
    }
  await keepOutcome(state, outcome, transaction);
  return outcome;
}

const noOutcome = (): RefreshOutcome => ({
  came: 0,
  changed: 0,
  went: 0,
  left: { 'no e-mail': 0, 'not an e-mail': 0, 'e-mail of several rows': 0, 'does not count': 0 },
  people: [],
  rows: [],
  unread: [],
});

async function keepOutcome(state: PeopleState, outcome: RefreshOutcome, transaction: Transaction): Promise<void> {
  await state.update({ refreshedAt: new Date(), outcome: JSON.stringify(outcome) }, { transaction });
}

/** Finds where members and rows differ. */
class Scan {
  /** By roster: rows that are nobody's yet. */
  readonly appeared = new Map<string, string[]>();
  /** By roster: rows whose member is known by other words. */
  readonly moved = new Map<string, string[]>();
  /** Members of rows that are not there, or make no member. */
  readonly members = new Set<number>();
  readonly repeats = new Map<string, ReadonlySet<string>>();
  done = 0;

  constructor(
    private readonly portalId: number,
    private readonly rosters: readonly RosterAt[],
    private readonly transaction: Transaction,
    private readonly outcome: RefreshOutcome,
    private readonly progress: (done: number) => Promise<void>,
  ) {}

  async all(): Promise<void> {
    for (const at of this.rosters) {
      const { table } = at.roster;
      if (!isRosterRead(at.catalogue, at.roster)) {
        this.outcome.unread.push(table);
        continue;
      }
      if (await this.besides(at)) continue;
      this.repeats.set(table, await rosterRepeats(at.runner, at.catalogue, at.roster));
      const held = await this.roster(at);
      if (held < (await this.holding(table))) await this.vanished(at);
    }
    const followed = this.rosters.map(({ roster }) => roster.table);
    const elsewhere = await Membership.findAll({
      where: { portalId: this.portalId, holds: true, rosterTable: { [Op.notIn]: followed } },
      attributes: ['memberId'],
      transaction: this.transaction,
      raw: true,
    });
    for (const { memberId } of elsewhere) this.members.add(Number(memberId));
  }

  /** Finds what differs by the database itself, where rows and members stand on one server; false where not. */
  private async besides({ roster, runner, catalogue, beside }: RosterAt): Promise<boolean> {
    const { table } = roster;
    const { portalId } = this;
    const apart = beside === null ? null : rosterApart(runner, catalogue, roster, { schema: beside, portalId });
    if (!apart) return false;
    let repeats: ReadonlySet<string> | null = null;
    for await (const { rows, isAll } of apart.pages()) {
      // One of two rows with an address is its member's at most, so the other one is among these.
      repeats ??= await rosterRepeats(runner, catalogue, roster, isAll ? rows.flatMap(addressOf) : undefined);
      this.repeats.set(table, repeats);
      for (const row of rows) {
        const standing = standingRow(table, row, repeats);
        if (!standing) {
          this.leave(table, row);
          if (row.holds) this.members.add(row.memberId!);
        } else if (row.memberId === null) add(this.appeared, table, row.key);
        else add(this.moved, table, row.key);
      }
      this.done += rows.length;
      await this.progress(this.done);
    }
    for (const id of await apart.gone()) this.members.add(id);
    // An address that stands in several rows by now is nobody's, though the row of its member is as it was.
    const held = { portalId, onRoster: true, email: [...(repeats ?? [])] };
    const { transaction } = this;
    for (const { id } of await Member.findAll({ where: held, attributes: ['id'], transaction })) this.members.add(id);
    return true;
  }

  /** Goes through a roster; gives how many memberships of it hold as they are, or differ in a known way. */
  private async roster({ roster, runner, catalogue }: RosterAt): Promise<number> {
    let held = 0;
    for (let after: string | null = null; ;) {
      const rows: RosterRow[] = (await rosterRows(runner, catalogue, roster, { after, size: pageSize })) ?? [];
      held += await this.page(roster.table, rows);
      this.done += rows.length;
      await this.progress(this.done);
      if (rows.length < pageSize) return held;
      after = rows.at(-1)!.key;
    }
  }

  private async page(table: string, rows: readonly RosterRow[]): Promise<number> {
    const keys = rows.map(({ key }) => key);
    const known = await membersOfRows(this.portalId, table, keys, this.transaction);
    const repeats = this.repeats.get(table);
    let held = 0;
    for (const row of rows) {
      const standing = standingRow(table, row, repeats);
      const member = known.get(row.key);
      if (member?.holds && standing) held++;
      if (!standing) this.leave(table, row);
      else if (!member) add(this.appeared, table, row.key);
      else if (!member.holds || !member.onRoster || member.email !== standing.email || member.name !== standing.name)
        add(this.moved, table, row.key);
    }
    return held;
  }

  private leave(roster: string, { name, email, counts }: RosterRow): void {
    const found = rosterEmail(email);
    const why: RowFault = !counts ? 'does not count' : 'fault' in found ? found.fault : 'e-mail of several rows';
    this.outcome.left[why]++;
    if (this.outcome.rows.length < namedAtMost) this.outcome.rows.push({ roster, name, email: email.trim(), why });
  }

  /** Looks which rows are gone, or make no member any more. */
  private async vanished({ roster, runner, catalogue }: RosterAt): Promise<void> {
    const { table } = roster;
    let after = '';
    for (;;) {
      const page = await this.memberships(table, after);
      const keys = page.map(({ rowKey }) => rowKey);
      const rows = (await rosterRows(runner, catalogue, roster, { keys })) ?? [];
      const there = new Set(
        rows.filter((row) => standingRow(table, row, this.repeats.get(table))).map(({ key }) => key),
      );
      for (const { memberId, rowKey } of page) if (!there.has(rowKey)) this.members.add(Number(memberId));
      if (page.length < pageSize) return;
      after = keys.at(-1)!;
    }
  }

  private holding(rosterTable: string): Promise<number> {
    const { portalId, transaction } = this;
    return Membership.count({ where: { portalId, rosterTable, holds: true }, transaction });
  }

  private memberships(rosterTable: string, after: string): Promise<Membership[]> {
    return Membership.findAll({
      where: { portalId: this.portalId, rosterTable, holds: true, rowKey: { [Op.gt]: after } },
      attributes: ['memberId', 'rowKey'],
      order: [['rowKey', 'ASC']],
      limit: pageSize,
      transaction: this.transaction,
      raw: true,
    });
  }
}

/** The address that a row says, where it is one. */
function addressOf({ email }: RosterRow): string[] {
  const found = rosterEmail(email);
  return 'fault' in found ? [] : [found.email];
}

function add(to: Map<string, string[]>, table: string, key: string): void {
  const own = to.get(table);
  if (own) own.push(key);
  else to.set(table, [key]);
}
