import type { PromiseOutcome } from '../../core/access/promises';
import type { PortalDefinition } from '../../core/definition/definition';
import type { PortalPromise } from '../../core/definition/promise';
import { findTable } from '../../core/table/catalogue';
import type { CoreServices } from '../definitions/portal-services';
import { testPromises } from '../gate/gate';
import { callingTo } from '../people/calling';
import { everyone } from '../people/everyone';
import { sightOf } from '../sessions/as-builder';
import type { Asker } from '../sources/asker';
import type { Builder, Portal } from '../store/models';

/** What becomes of a definition's promises, tested on the data as it is. */
export async function promisesOf(
  services: CoreServices,
  portal: Portal,
  definition: PortalDefinition,
  builder?: Builder,
  asker?: Asker,
): Promise<PromiseOutcome[]> {
  const { source, catalogue } = await services.sources.of(definition, asker);
  const sight = builder ? sightOf(builder) : {};
  const calling = await callingTo({ definition, catalogue, ...sight }, portal.id);
  const people = await everyone(source, catalogue, [definition], portal.id, calling);
  const { parts } = await services.sources.all(definition, asker);
  const partOf = (promise: PortalPromise) =>
    parts.find((part) => findTable(part.catalogue, promise.table)) ?? parts[0]!;
  const outcomes = await Promise.all(
    (definition.promises ?? []).map((promise) =>
      testPromises(
        {
          runner: partOf(promise).source,
          catalogue: partOf(promise).catalogue,
          definition: { ...definition, promises: [promise] },
          moment: new Date(),
        },
        people,
      ),
    ),
  );
  return outcomes.flat();
}
