import type Joi from 'joi';
import type { Condition } from '../condition/tree';
import type { Page, PortalDefinition } from './definition';
import type { Audience, ForRoles, OnPage, Section, SectionKind, SectionKinds } from './section-kinds';

/** What a section asks of a table, so that whoever must know of it need not know the kind. */
export interface AskedOfTable {
  table: string;
  /** Paths of columns that it shows, in their text form. */
  shows: string[];
  /** Paths that it is sorted by. */
  sorts: string[];
  where: Condition[];
  /** Which of its filters are those of tabs, that only some may get. */
  tabs?: { name: string; where: Condition; audience?: Audience }[];
  /** Of what it shows, what numbers are reckoned of: masked values are left out of them. */
  reckons?: string[];
  /** Of what it shows, what stands on the sheet that its table's records have everywhere, and not on it itself. */
  ofSheet?: string[];
  /** Columns of those that it shows that only some roles get. */
  limited?: { path: string; roles: ForRoles }[];
  /** It comes along where it is seen, and its place is not empty without it. */
  isAlong?: true;
}

/** Names as they are after a renaming. */
export interface NewNames {
  table(name: string): string;
  /** A path of columns in its text form. */
  path(table: string, text: string): string;
  condition(table: string, condition: Condition): Condition;
  /** What is known of the member: a column of their roster row, or something else. */
  fact(fact: string[]): string[];
}

/** What core has to know of a kind of section. */
export interface SectionSpec<S extends OnPage> {
  /** What it holds beside what every section has. */
  readonly schema: { readonly [K in Exclude<keyof S, keyof OnPage>]-?: Joi.Schema };
  asks(section: S, definition: Pick<PortalDefinition, 'sheets'>): AskedOfTable[];
  renamed(section: S, names: NewNames): S;
  /** Parts of it that are not for all who get it, by their ids. */
  parts?(section: S): { id: string; called: string; audience: Audience }[];
  /** Origins of others whose pages it shows in frames. */
  frames?(section: S): string[];
}

export type SectionSpecs = { readonly [K in SectionKind]: SectionSpec<SectionKinds[K]> };

/** The spec of a section's own kind. */
export function specOf<S extends Section>(specs: SectionSpecs, section: S): SectionSpec<S> {
  return specs[(section as { kind: SectionKind }).kind] as unknown as SectionSpec<S>;
}

/** The origins whose pages a portal shows in frames; the browser is told that there are no others. */
export const framedOrigins = ({ pages }: PortalDefinition, specs: SectionSpecs): string[] => [
  ...new Set(
    pages.flatMap(({ sections }) => sections.flatMap((section) => specOf(specs, section).frames?.(section) ?? [])),
  ),
];

/** Every audience on a page: its own, its sections', and those of their parts. */
export function audiencesOn(page: Page, specs: SectionSpecs): { id: string; called: string; audience: Audience }[] {
  return [
    { id: page.id, called: page.title, audience: page.audience },
    ...page.sections.flatMap((section) => {
      const { id, title, audience } = section;
      const called = `${title ?? id} on ${page.title}`;
      return [
        ...(audience ? [{ id: `${page.id}/${id}`, called, audience }] : []),
        ...(specOf(specs, section).parts?.(section) ?? []).map((part) => ({
          id: `${page.id}/${id}/${part.id}`,
          called: `${part.called} in ${called}`,
          audience: part.audience,
        })),
      ];
    }),
  ];
}

/** What a page's sections ask of tables, each beside its section. */
export function askedByPage(
  page: Page,
  definition: Pick<PortalDefinition, 'sheets'>,
  specs: SectionSpecs,
): { section: Section; asked: AskedOfTable }[] {
  return page.sections.flatMap((section) =>
    specOf(specs, section)
      .asks(section, definition)
      .map((asked) => ({ section, asked })),
  );
}
