import { QueryTypes } from 'sequelize';
import { OutsideCall } from './call-models';

/** The oldest of each record's to each address, where none before it is on its way. */
export const nextCalls = (atATime: number): Promise<OutsideCall[]> =>
  OutsideCall.sequelize!.query(
    `SELECT c.* FROM outside_calls c WHERE c.state = 'waiting' AND c.next_try <= :now AND NOT EXISTS (
       SELECT 1 FROM outside_calls b WHERE b.portal_id = c.portal_id AND b.lane_hash = c.lane_hash AND b.id < c.id
       AND b.state IN ('held', 'waiting', 'sending')) ORDER BY c.next_try, c.id LIMIT :atATime`,
    {
      replacements: { now: new Date(), atATime },
      type: QueryTypes.SELECT,
      model: OutsideCall,
      mapToModel: true,
    },
  );
