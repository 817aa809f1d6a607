import { findFaults as findFaultsOf } from '../core/check/findings';
import { askedColumns as askedColumnsOf } from '../core/check/index-advice';
import type { Finding } from '../core/check/finding';
import type { PortalDefinition } from '../core/definition/definition';
import { readDefinition as readWith } from '../core/definition/read';
import type { Renaming } from '../core/definition/renamed-catalogue';
import { translate as translateWith } from '../core/definition/translate';
import * as uses from '../core/definition/uses';
import type { Catalogue } from '../core/table/catalogue';
import { sectionSpecs } from './specs';

/** What core does with whole definitions, for definitions with every kind of section. */

export const readDefinition = (input: unknown): PortalDefinition => readWith(input, sectionSpecs);

export const translate = (definition: PortalDefinition, from: Catalogue, to: Catalogue): PortalDefinition =>
  translateWith(definition, from, to, sectionSpecs);

export const usesOf = (definition: PortalDefinition, catalogue: Catalogue, table: string, column?: string): string[] =>
  uses.usesOf(definition, catalogue, sectionSpecs, table, column);

export const strayUses = (
  definition: PortalDefinition,
  catalogue: Catalogue,
  table: string,
  column?: string,
): string[] => uses.strayUses(definition, catalogue, sectionSpecs, table, column);

export const withoutStray = (definition: PortalDefinition, catalogue: Catalogue, stray: Renaming): PortalDefinition =>
  uses.withoutStray(definition, catalogue, sectionSpecs, stray);

/** What follows the specs. */
type Further<F> = F extends (definition: never, catalogue: never, specs: never, ...further: infer R) => unknown
  ? R
  : never;

export const findFaults = (
  definition: PortalDefinition,
  catalogue: Catalogue,
  ...further: Further<typeof findFaultsOf>
): Finding[] => findFaultsOf(definition, catalogue, sectionSpecs, ...further);

export const askedColumns = (definition: PortalDefinition, catalogue: Catalogue) =>
  askedColumnsOf(definition, catalogue, sectionSpecs);
