import Joi from 'joi';
import { columnInfo } from '../columns/column-answers';
import { byName, cell, form, listOf, said, saidOrNull, yesNo } from '../http/answers';
import type { FactTold } from './facts-told';
import type { FormTold } from './form-told';
import type { LinesTold } from './lines-told';

const part = Joi.object({ kind: said.required() }).unknown();
const step = Joi.object({ id: said.required(), title: said.required(), parts: listOf(part).required() }).unknown();
const column = Joi.object({ name: said.required(), type: said.required() }).unknown();

/** A form as the API tells it. */
export const formTold = form<FormTold>({
  title: said,
  table: said,
  steps: listOf(step),
  rules: listOf(Joi.object({ id: said.required(), does: said.required() }).unknown()),
  columns: listOf(column),
  inputs: listOf(columnInfo),
  first: byName(cell),
  facts: byName(form<FactTold>({ column: columnInfo, value: cell, masked: yesNo })),
  lines: byName(form<LinesTold>({ label: said, columns: listOf(column), inputs: listOf(columnInfo) })),
  changes: yesNo,
  today: said,
  now: said,
  send: said,
  corrects: yesNo,
  anonymous: yesNo,
  leads: saidOrNull,
  closed: saidOrNull,
});
