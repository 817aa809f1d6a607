import type { PortalDefinition } from '../definition/definition';
import { findFaceFaults } from './face-findings';
import { findPageFilters } from './page-filter-findings';
import { findPages } from './page-findings';
import { sourceName } from '../definition/sources';
import { findClusterFaults } from './cluster-findings';
import { findBranchFaults } from './branch-findings';
import { findWrittenRights } from './deciding-columns';
import { findEmptyFaults, type DataFacts } from './empty-findings';
import { findActions } from './action-findings';
import { findBrought } from './brought-findings';
import { findForms } from './form-findings';
import { findFieldRules } from './field-rule-findings';
import { findGrantFaults } from './grant-findings';
import { grantedOf } from './granted';
import type { PeopleFacts } from './people-facts';
import { findRuleFaults } from './rule-findings';
import { findPeopleFaults } from './people-findings';
import type { Catalogue } from '../table/catalogue';
import type { Finding } from './finding';
import { findMails } from './mail-findings';
import { type RosterFacts, findRosters } from './roster-findings';
import { findSectionFaults, type CheckedSpecs } from './section-findings';
import { findCrossings } from './crossing-findings';
import { findOpenDoors } from './open-to-findings';
import { findSignUpFaults } from './sign-up-findings';
import { findStewardFaults } from './steward-findings';
import { findFilters, findOpenTables, findMaskedEdits } from './filter-findings';

/** Checks the definition against the catalogue and what is known of the rosters' data. */
export function findFaults(
  definition: PortalDefinition,
  catalogue: Catalogue,
  specs: CheckedSpecs,
  rosters: RosterFacts[],
  people: PeopleFacts | null = null,
  unindexed: readonly { table: string; column: string }[] = [],
  data: DataFacts | null = null,
): Finding[] {
  const granted = grantedOf(definition, catalogue);
  // Of the tables of a source that can't be reached nothing is known, so nothing is said of them.
  const away = data?.away ?? [];
  const isAway = (table: string) => away.some(({ name }) => name === sourceName(definition, table));
  return [
    ...away.map(({ name, reason }): Finding => ({
      id: `away/${name}`,
      kind: 'source away',
      severity: 'broken',
      place: { stage: 'data' },
      title: `The source ${name} can't be reached`,
      why:
        'Nothing of its tables is shown to anybody while that lasts, and pages say so in the place of their ' +
        `values; the check says nothing of them. ${reason}`,
    })),
    ...findFilters(definition, catalogue, isAway),
    ...findFieldRules(definition, catalogue, granted, isAway),
    ...findActions(definition, catalogue, isAway),
    ...findForms(definition, catalogue, isAway),
    ...findBrought(definition, catalogue, isAway),
    ...findOpenTables(definition, catalogue),
    ...findMaskedEdits(definition, catalogue),
    ...findRosters(definition, catalogue, rosters),
    ...findMails(definition, catalogue),
    ...findPages(definition, catalogue, specs, isAway),
    ...findPageFilters(definition, catalogue, specs, isAway),
    ...findSectionFaults(definition, catalogue, specs),
    ...findFaceFaults(definition),
    ...findCrossings(definition, catalogue, isAway),
    ...findRuleFaults(definition, catalogue, specs),
    ...findBranchFaults(definition, catalogue, granted),
    ...findGrantFaults(definition, catalogue, granted, people),
    ...findClusterFaults(granted),
    ...(data ? findEmptyFaults(granted, data) : []),
    ...findWrittenRights(definition, catalogue),
    ...findStewardFaults(definition, catalogue),
    ...findSignUpFaults(definition, catalogue),
    ...findOpenDoors(definition, catalogue),
    ...(people ? findPeopleFaults(definition, people) : []),
    ...unindexed.map(({ table, column }): Finding => ({
      id: `index/${table}/${column}`,
      kind: 'filter column without index',
      severity: 'slow',
      place: { stage: 'data', table, column },
      title: `Rules or pages ask by ${table}.${column}, which has no index`,
      why: "On a large table the database then reads every row. The table's columns offer to make one.",
    })),
  ];
}
