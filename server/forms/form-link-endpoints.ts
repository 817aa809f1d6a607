import Joi from 'joi';
import { findColumn, findTable } from '../../core/table/catalogue';
import { parseValue } from '../../core/table/value';
import { writeAudit } from '../audit/audit';
import { draftAt, openDraft, type BenchServices } from '../bench/bench';
import { InvalidValues, NotFound } from '../gate/gate';
import { form as formOf, said } from '../http/answers';
import { endpoint } from '../http/endpoint';
import { readAddress } from '../mail/own-address';
import { signedColumns, type SignedLinks } from './signed-links';

/** Links to forms, with values that whoever gets one can't change. */
export function formLinkEndpoints(services: BenchServices & { signedLinks: SignedLinks }) {
  return {
    formLink: endpoint({
      method: 'POST',
      path: '/forms/:form/links',
      says: 'A link to a form on a page of its own, with what the form takes from a link alone.',
      entry: openDraft(services),
      body: Joi.object<{ page: string; values: Record<string, unknown>; until: string | null }>({
        page: Joi.string().max(60).required(),
        values: Joi.object().pattern(Joi.string().max(64), Joi.any()).max(60).required(),
        until: Joi.string()
          .pattern(/^\d{4}-\d{2}-\d{2}$/, 'a day, like 2026-12-31')
          .allow(null)
          .required(),
      }),
      answers: { 200: formOf<{ link: string }>({ link: said }) },
      does: async ({ portal, signed: by, draft, params, body: { page, values, until } }) => {
        const form = draft.definition.forms?.find(({ id }) => id === params.form);
        const isThere = draft.definition.pages.some(
          ({ id, sections }) =>
            id === page &&
            sections.some((each) => each.kind === 'form' && (each as { form?: string }).form === params.form),
        );
        if (!form || !isThere) throw new NotFound('form');
        const { catalogue } = await draftAt(draft, form.table);
        const table = findTable(catalogue, form.table);
        const faults: Record<string, string> = {};
        const signed: Record<string, unknown> = {};
        for (const name of signedColumns(form)) {
          const column = table && findColumn(table, name);
          const parsed = column && parseValue({ ...column, nullable: true }, values[name] ?? null);
          if (!parsed?.ok) faults[name] = parsed?.problem ?? 'This column is gone.';
          else signed[name] = parsed.value;
        }
        if (Object.keys(faults).length > 0) throw new InvalidValues(faults);
        // Whom it is for stands in the values, which are not the log's.
        await writeAudit(portal.id, by, 'made a link', `to the form ${form.title}, until ${until ?? 'for good'}`);
        const said = services.signedLinks.sign(portal.id, form.id, { values: signed, until });
        return { link: `${await readAddress(portal.id)}/p/${portal.slug}/${page}?signed=${said}` };
      },
    }),
  };
}
