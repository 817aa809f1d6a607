import { asBuilder } from '../visits/builder-visit';
import {
  count,
  suggestClasses,
  suggestCrossings,
  suggestRelations,
  tryKey,
  NotFound,
  type RelationSuggestion,
} from '../gate/gate';
import Joi from 'joi';
import { askerOf } from '../sources/asker';
import type { ClassSuggestion } from '../../core/classify/evidence';
import { dataClasses } from '../../core/definition/definition';
import { findTable } from '../../core/table/catalogue';
import { draftAt, openDraft, type BenchServices } from '../bench/bench';
import { form, listOf, said, whole } from '../http/answers';
import { endpoint } from '../http/endpoint';
import { relationKeys } from './catalogue-answers';

interface CountedTable {
  name: string;
  rows: number;
}

/** What builders are told of tables: how many records, what their values suggest, whether columns tell them apart. */
export function tableEndpoints(services: BenchServices) {
  const entry = openDraft(services);
  return {
    tables: endpoint({
      method: 'GET',
      path: '/data',
      says: 'The tables of all sources, read anew, with the number of their records.',
      entry,
      answers: {
        200: form<{ tables: CountedTable[] }>({ tables: listOf(form<CountedTable>({ name: said, rows: whole })) }),
      },
      does: async ({ draft: { definition }, req }) => {
        await Promise.all((await services.sources.all(definition)).parts.map(({ source }) => source.catalogue(true)));
        const { parts } = await services.sources.all(definition, askerOf(req));
        const counted = await Promise.all(
          parts.flatMap(({ source, catalogue }) =>
            catalogue.tables.map(async ({ name }) => ({
              name,
              rows: await count(source, asBuilder({ definition, source, catalogue }), name),
            })),
          ),
        );
        return { tables: counted };
      },
    }),
    suggestions: endpoint({
      method: 'GET',
      path: '/data/:table/suggestions',
      says: 'What names and values of a table suggest: data classes of its columns, and relations.',
      entry,
      answers: {
        200: form<{ suggestions: ClassSuggestion[]; relations: RelationSuggestion[] }>({
          suggestions: listOf(
            form<ClassSuggestion>({
              column: said,
              dataClass: Joi.valid(...dataClasses),
              what: said,
              found: whole,
              of: whole,
            }),
          ),
          relations: listOf(form<RelationSuggestion>({ ...relationKeys, found: whole, of: whole })),
        }),
      },
      does: async ({ draft, params, req }) => {
        const { definition, source, catalogue } = await draftAt(draft, params.table);
        const table = findTable(catalogue, params.table);
        if (!table) throw new NotFound('table');
        const others = definition.sources
          ? (await services.sources.all(definition, askerOf(req))).parts.filter(
              (part) => !findTable(part.catalogue, table.name),
            )
          : [];
        return {
          suggestions: await suggestClasses(source, catalogue, table),
          relations: [
            ...(await suggestRelations(source, catalogue, table)),
            ...(await suggestCrossings({ source, catalogue }, others, table)),
          ],
        };
      },
    }),
    tryKey: endpoint({
      method: 'POST',
      path: '/data/:table/key',
      says: 'Tries whether columns tell the records of a table or view without a key apart; a refusal says why not.',
      entry,
      body: Joi.object<{ key: string[] }>({
        key: Joi.array().items(Joi.string().max(64).required()).unique().min(1).max(8).required(),
      }),
      answers: { 204: null },
      does: async ({ draft, params, body: { key } }) => {
        const { definition, source, catalogue } = await draftAt(draft, params.table);
        const table = findTable(catalogue, params.table);
        if (!table) throw new NotFound('table');
        await tryKey(source, catalogue, definition, table, key);
      },
    }),
  };
}
