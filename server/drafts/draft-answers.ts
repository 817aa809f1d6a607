import { definitionSchemas } from '../../core/definition/definition-schema';
import { sectionSpecs } from '../../sections/specs';
import { form, saidOrNull, whole } from '../http/answers';
import type { DraftState } from './draft';

const definitionAnswer = definitionSchemas(sectionSpecs).whole.id('definition');

export const draftKeys = { revision: whole, draft: definitionAnswer, undo: saidOrNull, redo: saidOrNull };

export const draftAnswer = form<DraftState>(draftKeys);
