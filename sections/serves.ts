import type { Section, SectionKind, SectionKinds } from '../core/definition/section-kinds';
import * as kinds from './kinds';
import type { SectionServe, SectionTold } from './serve';

type Serves = { readonly [K in SectionKind & keyof SectionTold]: SectionServe<SectionKinds[K], SectionTold[K]> };

// The compiler says what a kind lacks here.
const known: { [K in keyof Serves]: { serve(): Promise<{ serve: Serves[K] }> } } = kinds;

/** What the server does for every kind of section. */
export const sectionServes = Object.fromEntries(
  await Promise.all(Object.entries(known).map(async ([kind, { serve }]) => [kind, (await serve()).serve] as const)),
) as unknown as Serves;

/** What the server does for a section's own kind. */
export function serveOf(section: Section): SectionServe<Section, object> {
  return sectionServes[section.kind as keyof Serves] as unknown as SectionServe<Section, object>;
}
