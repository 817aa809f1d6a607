import Joi from 'joi';
import { columnKinds } from '../../core/table/column-kind';
import { columnTypes } from '../../core/table/catalogue';
import { byName, form, listOf, said, saidOrNull, whole, yesNo } from '../http/answers';
import type { ColumnInfo, RelationInfo } from './column-info';

export const columnInfo = form<ColumnInfo>({
  path: said,
  label: said,
  type: Joi.valid(...columnTypes),
  nullable: yesNo,
  mayStayEmpty: yesNo.optional(),
  maxLength: whole.optional(),
  scale: whole.optional(),
  choices: listOf(said).optional(),
  kind: Joi.valid(...columnKinds).optional(),
  currency: said.optional(),
  colours: byName(whole).optional(),
  away: yesNo.optional(),
  identifies: yesNo.optional(),
  labels: byName(said).optional(),
  relation: form<RelationInfo>({
    name: said,
    table: said,
    title: saidOrNull,
    further: listOf(said).optional(),
    opens: yesNo,
  }).optional(),
  asked: Joi.string().valid('value', 'number', 'text', 'same').allow(null),
  sortable: yesNo,
  own: form({ value: said, said: Joi.valid('you', 'your own') }).optional(),
  veiled: yesNo,
});
