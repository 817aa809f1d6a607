import { QueryTypes } from 'sequelize';
import { RecordedRoles } from './roles-model';

/** What each member of a portal was last recorded as, until a moment, by their number. */
export async function statesUntil(portalId: number, moment: Date | null): Promise<Map<number, string | null>> {
  const until = moment === null ? '' : ' AND at <= $moment';
  const lines = await RecordedRoles.sequelize!.query<{ member: number; state: string | null }>(
    `SELECT r.member_id member, r.state FROM recorded_roles r
      JOIN (SELECT MAX(id) id FROM recorded_roles WHERE portal_id = $portalId${until} GROUP BY member_id) last
      ON last.id = r.id`,
    { bind: moment === null ? { portalId } : { portalId, moment }, type: QueryTypes.SELECT },
  );
  return new Map(lines.map(({ member, state }) => [Number(member), state]));
}
