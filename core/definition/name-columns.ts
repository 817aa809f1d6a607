import type { Roster } from './definition';

/** The columns that make a member's name. */
export const nameColumns = (roster: Roster): string[] => [roster.name, ...(roster.nameFurther ?? [])];
