import { col, fn } from 'sequelize';
import { atPortal, type BenchServices } from '../bench/bench';
import { form, listOf, moment, said, whole } from '../http/answers';
import { endpoint } from '../http/endpoint';
import { TurnedAway } from '../store/form-models';

/** What was turned away at a form for one reason: how often, and when the last time. */
export interface TurnedAwayTold {
  why: string;
  times: number;
  last: string;
}

/** What builders are told of sendings; of whom they were nothing is known. */
export function sentEndpoints(services: BenchServices) {
  return {
    turnedAway: endpoint({
      method: 'GET',
      path: '/forms/:form/turned-away',
      says: 'What was turned away at a public form in the last 90 days, by its reason.',
      entry: atPortal(services),
      answers: {
        200: form<{ turnedAway: TurnedAwayTold[] }>({
          turnedAway: listOf(form<TurnedAwayTold>({ why: said, times: whole, last: moment })),
        }),
      },
      does: async ({ portal, params }) => {
        const rows = (await TurnedAway.findAll({
          where: { portalId: portal.id, form: params.form },
          attributes: ['why', [fn('SUM', col('times')), 'times'], [fn('MAX', col('last')), 'last']],
          group: ['why'],
          order: [['why', 'ASC']],
          raw: true,
        })) as unknown as { why: string; times: number | bigint | string; last: Date }[];
        return {
          turnedAway: rows.map(({ why, times, last }) => ({
            why,
            times: Number(times),
            last: new Date(last).toISOString(),
          })),
        };
      },
    }),
  };
}
