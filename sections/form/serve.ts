import Joi from 'joi';
import { pagesFor } from '../../core/access/audience';
import { toldForm, type FormTold as Told } from '../../server/forms/form-told';
import { whySentEnough } from '../../server/forms/sent-enough';
import { columnInfo } from '../../server/columns/column-answers';
import { byName, cell, form as formOf, listOf, said, saidOrNull, yesNo } from '../../server/http/answers';
import type { PlacedVisit } from '../../server/gate/gate';
import { reached } from '../reached';
import type { SectionServe } from '../serve';
import type { FormSection } from './spec';

/** A form as a person gets it; null where they can't send it: its table is away, or not theirs to add to. */
export interface FormTold {
  form: Told | null;
}

declare module '../serve' {
  interface SectionTold {
    form: FormTold;
  }
}

const part = Joi.object({ kind: said.required() }).unknown();
const step = Joi.object({ id: said.required(), title: said.required(), parts: listOf(part).required() }).unknown();

export const serve: SectionServe<FormSection, FormTold> = {
  tell: async (visit, { form: id }) => {
    const form = visit.definition.forms?.find((each) => each.id === id);
    const there = form ? await reached(visit, form.table) : null;
    const told = form && there ? toldForm(there, form, new Set(pagesFor(visit).map((page) => page.id))) : null;
    if (!form || !told) return { form: null };
    return {
      form: {
        ...told,
        closed: told.closed ?? (await whySentEnough(visit as PlacedVisit & { portalId: number }, form)),
      },
    };
  },
  told: {
    form: formOf<Told>({
      title: said,
      table: said,
      steps: listOf(step),
      rules: listOf(Joi.object({ id: said.required(), does: said.required() }).unknown()),
      columns: listOf(Joi.object({ name: said.required(), type: said.required() }).unknown()),
      inputs: listOf(columnInfo),
      first: byName(cell),
      today: said,
      now: said,
      send: said,
      corrects: yesNo,
      anonymous: yesNo,
      leads: saidOrNull,
      closed: saidOrNull,
    }).allow(null),
  },
};
