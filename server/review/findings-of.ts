import { splitAccepted } from '../../core/check/accepted';
import { peopleFacts } from '../../core/check/people-facts';
import { findWaysIn } from '../../core/check/way-in-findings';
import { askedColumns, findFaults } from '../../sections/definition';
import type { OpenDraft } from '../bench/bench';
import { reasonOf } from '../connections/away';
import type { CoreServices } from '../definitions/portal-services';
import { dataFacts, missingIndexes, rosterFacts } from '../gate/gate';
import { callingTo } from '../people/calling';
import { everyone } from '../people/everyone';
import { wayInFacts } from '../sign-in/ways-in';

/** What the automatic check finds in a definition, with the records and people as they are; and what is meant so. */
export async function findingsOf(services: CoreServices, draft: OpenDraft) {
  const { definition, source, catalogue, portal } = draft;
  const calling = await callingTo(draft, portal.id);
  const rosters = await Promise.all(definition.rosters.map((roster) => rosterFacts(source, catalogue, roster)));
  const { catalogue: known, away } = await services.sources.all(definition);
  const [people, unindexed] = await Promise.all([
    everyone(source, catalogue, [definition], portal.id, calling),
    missingIndexes(source, catalogue, askedColumns(definition, catalogue)),
  ]);
  const data = {
    ...(await dataFacts({ runner: source, catalogue, definition, moment: new Date() }, people)),
    away: away.map(({ name, error }) => ({ name, reason: reasonOf(error) })),
  };
  const slow = unindexed.map(({ table, column }) => ({ table, column }));
  const faults = findFaults(definition, known, rosters, peopleFacts(definition, known, people), slow, data);
  const waysIn = findWaysIn(definition, await wayInFacts(services, portal.id));
  return { ...splitAccepted([...faults, ...waysIn], definition), rosters };
}
