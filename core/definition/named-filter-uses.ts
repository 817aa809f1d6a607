import { makesOf } from './action';
import type { PortalDefinition } from './definition';

/**
 * In how many places a table's named filter stands: grants, fences, field rules, moves, actions, forms, promises, role
 * rules, stewards and sections.
 */
export function namedFilterUses(definition: PortalDefinition, table: string, id: string): number {
  const ofTable = (each: object) => 'table' in each && each.table === table;
  const places = [
    definition.access[table],
    definition.tables[table]?.rules,
    definition.rosters.filter(ofTable),
    definition.fences?.filter(ofTable),
    definition.lifecycles?.filter(ofTable),
    definition.actions?.map((action) => [
      action.table === table && [action.where, action.keepIn],
      makesOf(action).filter(ofTable),
    ]),
    definition.forms?.filter(ofTable),
    definition.promises?.filter(ofTable),
    definition.stewards?.map((steward) =>
      steward.does === 'hand over'
        ? [steward.roster === table && steward.where, steward.tables.filter(ofTable)]
        : steward.does === 'look after people' && steward.roster === table && steward.where,
    ),
    definition.pages.flatMap((page) => page.sections.filter(ofTable)),
  ];
  return JSON.stringify(places).split(`"named":${JSON.stringify(id)}`).length - 1;
}
