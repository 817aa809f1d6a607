import { lensesOf } from '../access/lens';
import { lookedAfterColumns } from '../access/steward-grants';
import { checkCondition } from '../condition/check';
import type { PortalDefinition } from '../definition/definition';
import type { HandsOver, KeepsTable, LooksAfter, Steward } from '../definition/steward';
import { stewardName } from '../definition/steward-words';
import { findColumn, findTable, type Catalogue } from '../table/catalogue';
import type { Finding, Place } from './finding';

/** Stewards who can do nothing of what is said of them, and stewards who can do more than is meant. */
export function findStewardFaults(definition: PortalDefinition, catalogue: Catalogue): Finding[] {
  return (definition.stewards ?? []).flatMap((steward): Finding[] => {
    const problem = stewardProblem(definition, catalogue, steward);
    const place: Place = { stage: 'people', screen: '~stewards' };
    if (problem !== null)
      return [
        {
          id: `steward/${steward.id}`,
          kind: 'steward does not work',
          severity: 'broken',
          place,
          title: `${stewardName(definition, steward)}: ${problem}`,
          why: 'Nobody can do this, or not all of it. Set it right under People, Stewards, or remove it.',
        },
      ];
    return steward.does === 'look after people' ? widerThanMeant(definition, steward, place) : [];
  });
}

/** Why it does not work, in words; null where it does. */
function stewardProblem(definition: PortalDefinition, catalogue: Catalogue, steward: Steward): string | null {
  const role = definition.roles.find(({ id }) => id === steward.role);
  if (!role) return `there is no role ${steward.role}`;
  if ((role.for ?? 'members') !== 'members') return `${role.name} is no role of members`;
  if (steward.does === 'keep a table') return keepProblem(definition, catalogue, steward);
  const roster = definition.rosters.find(({ table }) => table === steward.roster);
  const table = findTable(catalogue, steward.roster);
  if (!roster || !table) return `there is no roster ${steward.roster}`;
  const [fault] = steward.where ? checkCondition(steward.where, { catalogue, table, member: true }) : [];
  if (fault) return `its condition can't be used: ${fault.reason}`;
  if (steward.does === 'hand over') return handOverProblem(definition, catalogue, steward);
  const named = [...lookedAfterColumns(roster, steward)];
  const lost = named.find((column) => !findColumn(table, column));
  if (lost !== undefined) return `${steward.roster} has no ${lost}`;
  const [lens] = lensesOf(definition, catalogue, table, steward.role).filter((each) => each.steward === steward.id);
  return lens && lens.rows !== 'no row' ? null : 'nobody of the roster can have these roles alone';
}

function keepProblem(
  definition: PortalDefinition,
  catalogue: Catalogue,
  { table: name, role, id }: KeepsTable,
): string | null {
  const table = findTable(catalogue, name);
  if (!table) return `there is no table ${name}`;
  const lenses = lensesOf(definition, catalogue, table, role);
  if (!lenses.some((lens) => lens.steward === id)) return `they see nothing of ${name}`;
  const brings = lenses.some((lens) => lens.create !== null || lens.edit !== null);
  return brings ? null : `they may neither add nor change anything in ${name}, so no file can be brought`;
}

function handOverProblem(definition: PortalDefinition, catalogue: Catalogue, steward: HandsOver): string | null {
  for (const { table: name, column } of steward.tables) {
    const table = findTable(catalogue, name);
    if (!table) return `there is no table ${name}`;
    if (!findColumn(table, column)) return `${name} has no ${column}`;
    if (!table.relations.some((each) => each.column === column && each.table === steward.roster))
      return `${name}.${column} does not lead to ${steward.roster}`;
    const lenses = lensesOf(definition, catalogue, table, steward.role);
    if (!lenses.some((lens) => lens.steward === steward.id && lens.edit)) return `they see nothing of ${name}`;
  }
  const people = findTable(catalogue, steward.roster)!;
  const sees = lensesOf(definition, catalogue, people, steward.role).some((lens) => lens.rows !== 'no row');
  return sees ? null : `they see nobody of ${steward.roster}, so there is nobody to choose`;
}

function widerThanMeant(definition: PortalDefinition, steward: LooksAfter, place: Place): Finding[] {
  const called = stewardName(definition, steward);
  const stewards = (definition.stewards ?? []).filter((each) => steward.roles.includes(each.role));
  const writes = steward.adds !== undefined || steward.changes !== undefined;
  const found: Finding[] = [];
  if (steward.where === undefined)
    found.push({
      id: `steward-of-all/${steward.id}`,
      kind: 'steward of everyone',
      severity: 'leak',
      place,
      title: `${called}: all of ${steward.roster} who have these roles`,
      why:
        'A condition on the row narrows it to a slice, like those of the own organisation. Accept it where all is ' +
        'meant.',
    });
  if (writes && stewards.length > 0)
    found.push({
      id: `steward-of-stewards/${steward.id}`,
      kind: 'steward of stewards',
      severity: 'leak',
      place,
      title: `${called}: by a row they can make somebody who is a steward too`,
      why:
        'Whoever can add a steward, or change the address of one, can be that steward. Leave out roles that stewards ' +
        'have.',
    });
  return found;
}
