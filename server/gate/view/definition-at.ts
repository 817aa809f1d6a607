import type { PortalDefinition } from '../../../core/definition/definition';
import type { Catalogue } from '../../../core/table/catalogue';
import type { Runner } from '../../sources/source';

/** A definition over its data at one moment: what is asked of many persons at once, none of them visiting. */
export interface DefinitionAt {
  runner: Runner;
  catalogue: Catalogue;
  definition: PortalDefinition;
  moment: Date;
}
