import { definitionSchema } from '../../core/definition/read';
import { form, saidOrNull, whole } from '../http/answers';
import type { DraftState } from './draft';

const definitionAnswer = definitionSchema.id('definition');

export const draftKeys = { revision: whole, draft: definitionAnswer, undo: saidOrNull, redo: saidOrNull };

export const draftAnswer = form<DraftState>(draftKeys);
