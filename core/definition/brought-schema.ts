import Joi from 'joi';
import { id, label, tableName, timeOfDay } from './name-schema';

export const brought = Joi.object({
  id: id.required(),
  name: label.min(1).max(60).required(),
  address: id.required(),
  table: tableName.required(),
  at: timeOfDay.required(),
  role: id.required(),
  refused: Joi.valid('hold', 'leave out').required(),
});
