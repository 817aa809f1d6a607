import { QueryTypes, type Transaction } from 'sequelize';
import { Membership } from './people-models';

/** The member whom a row is known by. */
export interface MemberOfRow {
  key: string;
  holds: number;
  onRoster: number;
  email: string;
  name: string;
}

/** The members that rows of a roster are known by, by the rows' keys. */
export async function membersOfRows(
  portalId: number,
  rosterTable: string,
  keys: readonly string[],
  transaction?: Transaction,
): Promise<Map<string, MemberOfRow>> {
  if (keys.length === 0) return new Map();
  const rows = await Membership.sequelize!.query<MemberOfRow>(
    `SELECT r.row_key \`key\`, r.holds, m.on_roster onRoster, m.email, m.name
      FROM memberships r JOIN members m ON m.id = r.member_id
      WHERE r.portal_id = :portalId AND r.roster_table = :rosterTable AND r.row_key IN (:keys)`,
    { replacements: { portalId, rosterTable, keys: [...keys] }, type: QueryTypes.SELECT, transaction },
  );
  return new Map(rows.map((row) => [row.key, row]));
}

/** Those who are known by a row of some rosters, as a list of numbers to stand in a condition. */
export function knownByRosters(portalId: number, rosters: readonly string[]) {
  const { sequelize } = Membership;
  const tables = rosters.length === 0 ? 'NULL' : rosters.map((table) => sequelize!.escape(table)).join(', ');
  return sequelize!.literal(
    `(SELECT r.member_id FROM memberships r WHERE r.portal_id = ${sequelize!.escape(portalId)}
      AND r.roster_table IN (${tables}))`,
  );
}
