import type { PromiseOutcome } from '../../core/access/promises';
import Joi from 'joi';
import { form, moment, said, saidOrNull, whole, wholeOrNull, yesNo } from '../http/answers';

export interface VersionLine {
  number: number;
  note: string;
  publishedBy: string;
  publishedAt: string;
  /** Why it can't be published again; null when it can. */
  outdated: string | null;
}

export const versionLine = form<VersionLine>({
  number: whole,
  note: said,
  publishedBy: said,
  publishedAt: moment,
  outdated: saidOrNull,
});

const person = form<{ id: number | null; name: string }>({ id: wholeOrNull, name: said });

export const promiseOutcome = form<PromiseOutcome>({
  id: said,
  kept: yesNo,
  by: Joi.valid('analysis', 'data'),
  counterExample: form<NonNullable<PromiseOutcome['counterExample']>>({
    person,
    record: saidOrNull,
    found: whole.optional(),
  }).optional(),
  problem: said.optional(),
});
