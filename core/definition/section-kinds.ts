import type { Condition } from '../condition/tree';

/** Roles whom something is for; of a rule, apart from those whom it names as exceptions. */
export type ForRoles = 'everyone' | string[];

/**
 * Who gets a page or a section of it: those with one of the roles, for whom the condition on what is known of them
 * holds. It shows or hides, and is never a right.
 */
export interface Audience {
  roles: ForRoles;
  where?: Condition;
}

/** Every kind of section by its name: each adds itself where it is described, in `sections/<kind>/spec.ts`. */
// oxlint-disable-next-line typescript/no-empty-interface
export interface SectionKinds {}

export type SectionKind = keyof SectionKinds & string;

/** What every section has, whatever its kind. */
export interface OnPage {
  /** Never changes, and is the section's alone on its page: addresses and what people keep go by it. */
  id: string;
  title?: string;
  /** Who gets it of those who get the page; all of them when absent. */
  audience?: Audience;
  /** How much of the page's width it takes where there is room; all of it when absent. */
  width?: SectionWidth;
  /** After how many seconds it is asked for again while somebody looks; only when something was done when absent. */
  refresh?: RefreshPeriod;
}

export const sectionWidths = ['third', 'half', 'two thirds'] as const;

/** Seconds. */
export const refreshPeriods = [15, 60, 300, 900] as const;

export type RefreshPeriod = (typeof refreshPeriods)[number];

/** Where a record opens that is listed in a section; beside it, where there is room, when it is not said. */
export const waysToOpen = ['under', 'over', 'page'] as const;

export type WayToOpen = (typeof waysToOpen)[number];

export type SectionWidth = (typeof sectionWidths)[number];

export type Section = SectionKinds[SectionKind];
