import type { SectionKind, SectionKinds } from '../core/definition/section-kinds';
import type { CheckedSpec, CheckedSpecs } from '../core/check/section-findings';
import * as kinds from './kinds';

// The compiler says what a kind that adds itself to `SectionKinds` lacks here.
const known: { [K in SectionKind]: { spec: CheckedSpec<SectionKinds[K]> } } = kinds;

/** The specs of every kind of section. */
export const sectionSpecs = Object.fromEntries(
  Object.entries(known).map(([kind, { spec }]) => [kind, spec]),
) as unknown as CheckedSpecs;
