import type { PromiseOutcome } from '../../core/access/promises';
import Joi from 'joi';
import { byName, cell, form, listOf, moment, said, saidOrNull, whole, wholeOrNull, yesNo } from '../http/answers';
import type { ComparedGroup } from '../gate/gate';

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

/** A line of the audit log. */
export interface LogLine {
  at: string;
  who: string;
  what: string;
  about: string;
}

export const logLine = form<LogLine>({ at: moment, who: said, what: said, about: said });

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

const columns = listOf(said);

export const comparedGroup = form<ComparedGroup>({
  table: said,
  rolesBefore: columns,
  rolesAfter: columns,
  facts: byName(cell),
  people: listOf(person),
  change: form<ComparedGroup['change']>({
    rows: form<ComparedGroup['change']['rows']>({ gained: whole, lost: whole, kept: whole }),
    columns: byName(form<{ opened: number; closed: number }>({ opened: whole, closed: whole })),
    editable: byName(form<{ gained: number; lost: number }>({ gained: whole, lost: whole })),
    deletable: form<{ gained: number; lost: number }>({ gained: whole, lost: whole }),
    creatable: form<{ gained: string[]; lost: string[] }>({ gained: columns, lost: columns }),
  }),
});
