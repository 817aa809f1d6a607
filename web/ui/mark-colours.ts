/** Colours that a choice can have, by name, in the places of the look's `mark-0`, `mark-1` and so on. */
export const markColours = ['stone', 'lichen', 'ochre', 'iron', 'water', 'moss', 'sand', 'slate'] as const;
