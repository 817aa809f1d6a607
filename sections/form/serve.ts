import { pagesFor } from '../../core/access/audience';
import { toldForm, type FormTold as Told } from '../../server/forms/form-told';
import { whySentEnough } from '../../server/forms/sent-enough';
import { plainLabel } from '../../core/table/catalogue';
import { formTold } from '../../server/forms/form-answers';
import { fromOf } from '../../core/definition/form';
import { saidOrNull } from '../../server/http/answers';
import type { PlacedVisit } from '../../server/gate/gate';
import { reached } from '../reached';
import type { SectionServe } from '../serve';
import type { FormSection } from './spec';

/** A form as a person gets it; null where they can't send it: its table is away, or not theirs to add to. */
export interface FormTold {
  form: Told | null;
  /** What it is opened with is a record of this; null where it is opened as it is. */
  from: string | null;
}

declare module '../serve' {
  interface SectionTold {
    form: FormTold;
  }
}

export const serve: SectionServe<FormSection, FormTold> = {
  tell: async (visit, { form: id }) => {
    const form = visit.definition.forms?.find((each) => each.id === id);
    const from = form ? fromOf(form) : null;
    if (from !== null) return { form: null, from: visit.definition.tables[from]?.label ?? plainLabel(from) };
    const there = form ? await reached(visit, form.table) : null;
    const told = form && there ? await toldForm(there, form, new Set(pagesFor(visit).map((page) => page.id))) : null;
    if (!form || !told) return { form: null, from: null };
    return {
      from: null,
      form: {
        ...told,
        closed: told.closed ?? (await whySentEnough(visit as PlacedVisit & { portalId: number }, form)),
      },
    };
  },
  told: {
    form: formTold.allow(null),
    from: saidOrNull,
  },
};
