import Joi from 'joi';
import { dataClasses } from '../../core/definition/definition';
import { builderPerson } from '../../core/access/person';
import { Problem } from '../../core/refusals/problem';
import type { AskedOf } from '../../core/access/who';
import type { WhoThen } from '../../core/access/who-then';
import { openDraft, type BenchServices } from '../bench/bench';
import { at } from '../gate/gate';
import { form, listOf, moment, said, saidOrNull, whole, wholeOrNull, yesNo } from '../http/answers';
import { endpoint } from '../http/endpoint';
import { callingTo } from '../people/calling';
import { toldThen, type AskedThen, type ToldThen } from './who-then';
import { askerOf } from '../sources/asker';

const named = form<WhoThen['unsure'][number]>({ id: wholeOrNull, name: said });
const column = { table: said, column: said };

const toldThenAnswer = form<ToldThen>({
  version: form<NonNullable<ToldThen['version']>>({ number: whole, since: moment }).allow(null),
  looks: form<ToldThen['looks']>({ before: moment.allow(null), after: moment.allow(null) }),
  ceilingsSince: yesNo,
  asked: listOf(form<AskedOf>(column)),
  found: listOf(
    form<WhoThen>({
      ...column,
      people: listOf(
        form<WhoThen['people'][number]>({
          reach: form<WhoThen['people'][number]['reach']>({
            level: Joi.valid('shown', 'masked', 'hidden'),
            mask: saidOrNull,
            through: listOf(said),
          }),
          rows: said,
          saw: Joi.valid('shown', 'masked', 'hidden', 'not known').allow(null),
          people: listOf(named),
        }),
      ),
      unsure: listOf(named),
    }),
  ),
});

/** Who could see something at a moment that is over. */
export function whoThenEndpoints(services: BenchServices) {
  return {
    whoThen: endpoint({
      method: 'GET',
      path: '/who-then',
      says: 'Who could see a column, a data class or a cell at a past moment, from versions and recorded roles.',
      entry: openDraft(services),
      query: Joi.object<Omit<AskedThen, 'at'> & { at: string }>({
        at: Joi.string().isoDate().required(),
        table: Joi.string().max(105),
        column: Joi.string().max(64),
        class: Joi.valid(...dataClasses),
        record: Joi.string().min(1).max(1000),
      })
        .and('table', 'column')
        .xor('column', 'class')
        .with('record', 'table'),
      answers: { 200: toldThenAnswer },
      does: async ({ draft, builder, query, req }) => {
        // Whose a record is can be told from who could see it.
        if (query.record !== undefined && !builder.seesPersonal)
          throw new Problem(403, 'personal-data', 'Of one record this is for those who see personal data.');
        const asked = { ...query, at: new Date(query.at) };
        if (asked.at > new Date())
          throw new Problem(422, 'still-to-come', 'This moment is still to come. Choose one that is over.');
        return toldThen(services, draft.portal.id, asked, await callingTo(draft, draft.portal.id), async (definition) =>
          at(
            {
              ...(await services.sources.of(definition, askerOf(req))),
              definition,
              person: builderPerson,
              moment: new Date(),
            },
            query.table!,
          ),
        );
      },
    }),
  };
}
