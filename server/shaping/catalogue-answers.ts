import Joi from 'joi';
import { columnKinds } from '../../core/table/column-kind';
import {
  columnTypes,
  type Catalogue,
  type Closed,
  type Column,
  type ForeignKey,
  type ManyRelation,
  type Relation,
  type Table,
} from '../../core/table/catalogue';
import { byName, form, listOf, said, saidOrNull, whole, yesNo } from '../http/answers';

const column = form<Column>({
  name: said,
  type: Joi.valid(...columnTypes),
  nativeType: said,
  nullable: yesNo,
  hasDefault: yesNo,
  defaultTells: yesNo.optional(),
  automatic: yesNo,
  setOnChange: yesNo.optional(),
  unique: yesNo,
  indexed: yesNo.optional(),
  maxLength: Joi.number().optional(),
  precision: whole.optional(),
  scale: whole.optional(),
  min: said.optional(),
  max: said.optional(),
  choices: listOf(said).optional(),
  kind: Joi.valid(...columnKinds).optional(),
  currency: said.optional(),
  read: said.optional(),
  equalityOnly: yesNo.optional(),
  comment: said.optional(),
  from: listOf(form<{ table: string; column: string }>({ table: said, column: said })).optional(),
  collation: said.optional(),
});

export const relationKeys = { name: said, column: said, table: said, targetColumn: said };

const table = form<Table>({
  name: said,
  stored: said.optional(),
  columns: listOf(column),
  key: listOf(said),
  keyByWord: yesNo.optional(),
  relations: listOf(form<Relation>(relationKeys)),
  foreignKeys: listOf(
    form<ForeignKey>({ columns: listOf(said), table: saidOrNull, targetColumns: listOf(said) }),
  ).optional(),
  many: listOf(form<ManyRelation>(relationKeys)).optional(),
  // Beside what it closes stand its rows, which are a condition.
  ceiling: form<Closed>({
    create: yesNo.optional(),
    edit: yesNo.optional(),
    delete: yesNo.optional(),
    export: yesNo.optional(),
    columns: byName(said).optional(),
  })
    .unknown()
    .optional(),
  query: said.optional(),
  inCluster: said.optional(),
});

/** What is known of the tables of a portal's sources. */
export const catalogueAnswer = form<Catalogue>({
  database: said.optional(),
  schema: said,
  tables: listOf(table),
  rosters: listOf(table).optional(),
});
