import Joi from 'joi';
import { themes, typePairs } from '../../core/face/face';
import type { Look } from '../../core/face/look';
import { byName, form, listOf, said } from '../http/answers';

/** A portal's face as it is told. */
export const lookTold = form<Look>({
  style: byName(said),
  theme: Joi.valid(...themes),
  type: Joi.valid(...typePairs),
  footer: listOf(form<Look['footer'][number]>({ label: said, address: said })),
});
