import type { OnPage, Section, SectionKind, SectionKinds } from '../definition/section-kinds';
import { audienceProblems } from '../access/audience';
import type { Page, PortalDefinition } from '../definition/definition';
import { audiencesOn, specOf } from '../definition/section';
import type { Steward } from '../definition/steward';
import type { SectionSpec } from '../definition/section';
import { audiencesOfSheet } from '../definition/sheet';
import type { Catalogue } from '../table/catalogue';
import type { Finding } from './finding';

/** A kind of section with what the check holds against one, beyond what it asks of tables. */
export interface CheckedSpec<S extends OnPage> extends SectionSpec<S> {
  findings?(section: S, page: Page, catalogue: Catalogue, definition: PortalDefinition): Finding[];
}

export type CheckedSpecs = { readonly [K in SectionKind]: CheckedSpec<SectionKinds[K]> };

/** What each kind holds against its sections, and audiences that nobody can be told to belong to. */
export function findSectionFaults(definition: PortalDefinition, catalogue: Catalogue, specs: CheckedSpecs): Finding[] {
  const sheets = Object.entries(definition.sheets).flatMap(([table, sheet]) =>
    // A sheet stands under the name of its table, with a sign before it.
    audienceFaults(
      `~${table}`,
      audiencesOfSheet(sheet).map((part) => ({
        ...part,
        id: `~${table}/${part.id}`,
        called: `${part.called} on a record of ${table}`,
      })),
      catalogue,
    ),
  );
  const pages = definition.pages.flatMap((page) => [
    ...audienceFaults(page.id, audiencesOn(page, specs), catalogue),
    ...page.sections.flatMap(
      (section) =>
        (specOf(specs, section) as CheckedSpec<Section>).findings?.(section, page, catalogue, definition) ?? [],
    ),
  ]);
  return [...pages, ...sheets];
}

/** A section that is for what a steward does, where there is none who does that. */
export function stewardGone(definition: PortalDefinition, page: Page, id: string, does: Steward['does']): Finding[] {
  return definition.stewards?.some((steward) => steward.id === id && steward.does === does)
    ? []
    : [
        {
          id: `section-steward/${page.id}/${id}`,
          kind: 'section does not work',
          severity: 'broken',
          place: { stage: 'pages', page: page.id },
          title: `${page.title} has a section for a steward who is gone`,
          why: 'It would be empty for everybody. Choose another steward for it, or remove it.',
        },
      ];
}

function audienceFaults(place: string, audiences: ReturnType<typeof audiencesOn>, catalogue: Catalogue): Finding[] {
  return audiences.flatMap(({ audience, id, called }): Finding[] => {
    const [problem] = audience.where ? audienceProblems(audience.where, catalogue) : [];
    return problem === undefined
      ? []
      : [
          {
            id: `audience/${id}`,
            kind: 'audience does not work',
            severity: 'broken',
            place: { stage: 'pages', page: place },
            title: `Who gets ${called} can't be told: ${problem}`,
            why: 'So nobody gets it. Write the condition again, with what is known of members.',
          },
        ];
  });
}
