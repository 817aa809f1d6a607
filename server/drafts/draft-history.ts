import { setImmediate as others } from 'node:timers/promises';
import jsonPatch, { type Operation } from 'fast-json-patch';
import { Op, type Transaction } from 'sequelize';
import type { PortalDefinition } from '../../core/definition/definition';
import { DraftEdit } from '../store/models';

/** So many edits each way follow; older ones are forgotten. */
const farthest = 100;

/**
 * Lets what can be undone and done again of a draft follow a change of names: every state that a step leads to is
 * brought `along`, and the step is told anew between the two. Where a state can't follow, it and what lies behind it
 * are forgotten.
 */
export async function bringHistoryAlong(
  portalId: number,
  before: PortalDefinition,
  along: (definition: PortalDefinition) => PortalDefinition,
  transaction: Transaction,
): Promise<void> {
  const edits = await DraftEdit.findAll({ where: { portalId }, order: [['id', 'ASC']], transaction });
  await follow(edits.filter((edit) => !edit.undone).toReversed(), 'backward', before, along, transaction);
  await follow(
    edits.filter((edit) => edit.undone),
    'forward',
    before,
    along,
    transaction,
  );
}

async function follow(
  edits: DraftEdit[],
  way: 'backward' | 'forward',
  start: PortalDefinition,
  along: (definition: PortalDefinition) => PortalDefinition,
  transaction: Transaction,
): Promise<void> {
  const other = way === 'backward' ? 'forward' : 'backward';
  let [state, told] = [start, along(start)];
  for (const [i, edit] of edits.entries()) {
    // Each step takes some milliseconds; whoever waits for something else comes in between.
    await others();
    const next = i < farthest ? stepped(state, JSON.parse(edit[way]) as Operation[], along) : null;
    if (!next) {
      await DraftEdit.destroy({ where: { id: { [Op.in]: edits.slice(i).map((each) => each.id) } }, transaction });
      return;
    }
    const change = {
      [way]: JSON.stringify(jsonPatch.compare(told, next.told)),
      [other]: JSON.stringify(jsonPatch.compare(next.told, told)),
    };
    if (change[way] !== edit[way] || change[other] !== edit[other]) await edit.update(change, { transaction });
    ({ state, told } = next);
  }
}

/** The state behind a step, as it was and as it is told now; null where there is none. */
function stepped(
  from: PortalDefinition,
  patch: Operation[],
  along: (definition: PortalDefinition) => PortalDefinition,
): { state: PortalDefinition; told: PortalDefinition } | null {
  try {
    // Every state was whole when it was the draft, and is read as one again when it is to be it.
    const state = jsonPatch.applyPatch(structuredClone(from), patch).newDocument;
    return { state, told: along(state) };
  } catch {
    return null;
  }
}
