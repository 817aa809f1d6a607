import Joi from 'joi';
import type { DefinitionTold } from '../../core/definition/definition-told';
import { partKinds, type PartChange } from '../../core/definition/parts-changed';
import { form, listOf, said, saidOrNull } from '../http/answers';

export const definitionTold = form<DefinitionTold>({
  slug: said,
  name: said,
  sources: listOf(
    form<DefinitionTold['sources'][number]>({
      name: saidOrNull,
      kind: Joi.valid('mariadb', 'postgresql'),
      connection: saidOrNull,
      schema: said,
    }),
  ),
});

/** A part of a definition that is other than in another. */
export const partChange = form<PartChange>({
  kind: Joi.valid(...partKinds),
  id: said,
  name: said,
  change: Joi.valid('new', 'gone', 'changed'),
  of: listOf(said),
});
