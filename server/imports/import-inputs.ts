import Joi from 'joi';
import type { ImportPlan } from '../../core/table/import-plan';
import { fileTypes } from '../../core/table/infer';
import { notations } from '../../core/table/notation';
import type { TablePlan } from './file-to-table';

const identifier = Joi.string()
  .pattern(/^[a-z][a-z0-9_]{0,63}$/, 'lower-case letters, digits and _')
  .required();

const fileId = Joi.string()
  .pattern(/^[0-9a-f]{32}$/, 'the id of a file')
  .required();

const header = Joi.string().max(1000).required();
const notation = Joi.valid(...notations);

/** As choices that are drawn. */
const choiceList = Joi.array()
  .items(
    Joi.string()
      .trim()
      .min(1)
      .max(100)
      .pattern(/^[^,]*$/, 'a choice without commas'),
  )
  .unique()
  .min(1)
  .max(500);

const steward = Joi.string().max(64);

const tablePlan = Joi.object<TablePlan>({
  name: identifier,
  columns: Joi.array()
    .items(
      Joi.object({
        header,
        name: identifier,
        type: Joi.valid(...fileTypes).required(),
        nullable: Joi.boolean().strict().required(),
        notation,
        maxLength: Joi.number().integer().min(1).max(4000),
        precision: Joi.number().integer().min(1).max(65),
        scale: Joi.number().integer().min(0).max(30),
        choices: Joi.when('type', { is: 'one choice', then: choiceList.required(), otherwise: Joi.forbidden() }),
      }),
    )
    .min(1)
    .max(300)
    .required(),
}).required();

const importPlan = Joi.object<ImportPlan>({
  table: Joi.string().max(64).required(),
  key: Joi.string().max(64).allow(null).required(),
  columns: Joi.array()
    .items(Joi.object({ header, column: Joi.string().max(64).required(), notation, by: Joi.string().max(64) }))
    .min(1)
    .max(300)
    .required(),
  unknown: Joi.valid('add', 'refuse').required(),
  known: Joi.valid('change', 'refuse').required(),
  empty: Joi.valid('clear', 'keep').required(),
}).required();

/** What the jobs on a file that was brought are given, as it is sent and as it is kept. */
export interface ReadInput {
  file: string;
  sheet?: string;
}
export interface TableInput {
  file: string;
  plan: TablePlan;
}
export interface LookInput {
  file: string;
  plan: ImportPlan;
  /** What a member brings it by, as a steward; builders bring whatever they like. */
  steward?: string;
}
export interface BringInput extends LookInput {
  mode: 'all or nothing' | 'without the refused';
  /** What looking told of the records as they were then. */
  digest: string;
}

export const readInput = Joi.object<ReadInput>({ file: fileId, sheet: Joi.string().max(200) });
export const tableInput = Joi.object<TableInput>({ file: fileId, plan: tablePlan });
export const lookInput = Joi.object<LookInput>({ file: fileId, plan: importPlan, steward });
export const bringInput = Joi.object<BringInput>({
  file: fileId,
  plan: importPlan,
  steward,
  mode: Joi.valid('all or nothing', 'without the refused').required(),
  digest: Joi.string().hex().length(64).required(),
});
