import Joi from 'joi';
import { cell, form, said, whole, wholeOrNull } from '../http/answers';
import type { JobState } from './jobs';

export const jobState = form<JobState>({
  id: whole,
  kind: said,
  state: Joi.valid('waiting', 'running', 'saving', 'done', 'failed', 'cancelled'),
  done: whole,
  total: wholeOrNull,
  result: cell,
});
