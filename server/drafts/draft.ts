import jsonPatch, { type Operation } from 'fast-json-patch';
import { Op, type Sequelize, type Transaction } from 'sequelize';
import type { PortalDefinition, PortalSource } from '../../core/definition/definition';
import { DefinitionError } from '../../core/definition/read';
import { Problem } from '../../core/refusals/problem';
import { readDefinitionAside } from '../threads/aside';
import { Builder, DraftEdit, Portal } from '../store/models';

/** What an edit of a draft gives back: the new revision and what undo and redo would do now. */
export interface DraftState {
  revision: number;
  draft: PortalDefinition;
  undo: string | null;
  redo: string | null;
}

/** Lets a draft have its records in these sources, which it had not before; throws where it may not. */
export type AdmitSources = (added: readonly PortalSource[]) => Promise<void>;

/**
 * Whatever way a draft came to what it is: a source that it had not before is admitted or refused. `no change` is for
 * edits that may not touch where records are.
 */
async function admitted(
  before: PortalDefinition,
  after: PortalDefinition,
  admit: AdmitSources | 'no change',
): Promise<void> {
  if (admit === 'no change') {
    if (JSON.stringify([before.source, before.sources]) === JSON.stringify([after.source, after.sources])) return;
    throw new Problem(
      422,
      'patch',
      "Where the records of a portal are can't be changed by an edit. Apply a whole definition instead.",
    );
  }
  const all = ({ source, sources }: PortalDefinition) => [source, ...Object.values(sources ?? {})];
  const place = ({ kind, connection, schema }: PortalSource) => JSON.stringify([kind, connection ?? null, schema]);
  const known = new Set(all(before).map(place));
  const added = all(after).filter((source) => !known.has(place(source)));
  if (added.length > 0) await admit(added);
}

/** Throws where a builder who is kept from personal data would be kept from less by an edit of theirs. */
async function refuseKept(builderId: number | null, before: PortalDefinition, after: PortalDefinition): Promise<void> {
  const builder = builderId === null ? null : await Builder.findByPk(builderId);
  if (builder && !builder.seesPersonal) refuseLessKept(before, after);
}

/**
 * Whoever is kept from personal data can't say of a column that it holds none: every data class stays, and nothing is
 * said to be apart from what it comes from.
 */
function refuseLessKept(before: PortalDefinition, after: PortalDefinition): void {
  const classes = (of: PortalDefinition) =>
    Object.entries(of.tables).flatMap(([table, { columns = {} }]) =>
      Object.entries(columns).map(([column, notes]) => ({ table, column, ...notes })),
    );
  const now = classes(after);
  const at = (of: typeof now, { table, column }: { table: string; column: string }) =>
    of.find((each) => each.table === table && each.column === column);
  const lost = classes(before).some((was) => was.dataClass !== undefined && at(now, was)?.dataClass !== was.dataClass);
  const apart = now.some((is) => is.apart !== undefined && at(classes(before), is)?.apart === undefined);
  if (lost || apart)
    throw new Problem(
      403,
      'personal-data',
      'Data classes keep personal data from you, so you can give columns one, and take none away. Ask an owner.',
    );
}

/**
 * Changes a draft by a JSON Patch (RFC 6902). The sender names the revision that they saw; when another builder was
 * faster, nothing is changed and they get a conflict. The result must be a whole, valid definition.
 */
export function changeDraft(
  sequelize: Sequelize,
  portalId: number,
  builderId: number | null,
  revision: number,
  label: string,
  patch: Operation[],
  admit: AdmitSources | 'no change',
): Promise<DraftState> {
  return withPortal(sequelize, portalId, async (portal, transaction) => {
    if (portal.revision !== revision) {
      throw new Problem(
        409,
        'draft-changed',
        'Another change was made to this draft in the meantime. It is shown now; make yours again if it is ' +
          'still wanted.',
        { revision: portal.revision },
      );
    }
    const before = JSON.parse(portal.draft) as PortalDefinition;
    const after = await readDefinitionAside(applied(before, patch));
    if (after.portal.slug !== portal.slug)
      throw new DefinitionError([{ place: '/portal/slug', reason: "the address of a portal can't be changed" }]);
    await refuseKept(builderId, before, after);
    await admitted(before, after, admit);
    const forward = jsonPatch.compare(before, after);
    if (forward.length > 0) {
      // What had been undone can't follow on a different draft.
      await DraftEdit.destroy({ where: { portalId, undone: true }, transaction });
      await DraftEdit.create(
        {
          portalId,
          label,
          forward: JSON.stringify(forward),
          backward: JSON.stringify(jsonPatch.compare(after, before)),
          undone: false,
          builderId,
          madeAt: new Date(),
        },
        { transaction },
      );
      await portal.update({ draft: JSON.stringify(after), revision: portal.revision + 1 }, { transaction });
    }
    return draftState(portal, transaction);
  });
}

/** Takes the last change back, or makes the last undone one again. */
export function stepDraft(
  sequelize: Sequelize,
  portalId: number,
  builderId: number,
  step: 'undo' | 'redo',
  admit: AdmitSources,
): Promise<DraftState> {
  return withPortal(sequelize, portalId, async (portal, transaction) => {
    const edit = await DraftEdit.findOne({
      where: { portalId, undone: step === 'redo' },
      order: [['id', step === 'redo' ? 'ASC' : 'DESC']],
      transaction,
    });
    if (!edit)
      throw new Problem(
        409,
        'nothing-to-step',
        step === 'undo' ? 'There is nothing to undo.' : 'There is nothing to redo.',
      );
    const patch = JSON.parse(step === 'undo' ? edit.backward : edit.forward) as Operation[];
    const before = JSON.parse(portal.draft) as PortalDefinition;
    const after = await readDefinitionAside(applied(before, patch));
    await refuseKept(builderId, before, after);
    await admitted(before, after, admit);
    await edit.update({ undone: step === 'undo' }, { transaction });
    await portal.update({ draft: JSON.stringify(after), revision: portal.revision + 1 }, { transaction });
    return draftState(portal, transaction);
  });
}

export async function draftState(portal: Portal, transaction?: Transaction): Promise<DraftState> {
  const undo = await DraftEdit.findOne({
    where: { portalId: portal.id, undone: false },
    order: [['id', 'DESC']],
    transaction,
  });
  const redo = await DraftEdit.findOne({
    where: { portalId: portal.id, undone: true },
    order: [['id', 'ASC']],
    transaction,
  });
  return {
    revision: portal.revision,
    draft: JSON.parse(portal.draft) as PortalDefinition,
    undo: undo?.label ?? null,
    redo: redo?.label ?? null,
  };
}

/**
 * The draft as it is now, with what can be undone of it: read at one moment, for another builder may edit meanwhile.
 */
export function readDraft(sequelize: Sequelize, portalId: number): Promise<DraftState> {
  return sequelize.transaction(async (transaction) =>
    draftState(await Portal.findByPk(portalId, { transaction, rejectOnEmpty: true }), transaction),
  );
}

/** How many edits stand in the draft since the moment, undone ones left out. */
export function editsSince(portalId: number, moment: Date | null): Promise<number> {
  return DraftEdit.count({ where: { portalId, undone: false, ...(moment ? { madeAt: { [Op.gt]: moment } } : {}) } });
}

function applied(document: PortalDefinition, patch: Operation[]): unknown {
  let changed: unknown = structuredClone(document);
  for (const [i, step] of patch.entries()) {
    try {
      changed = jsonPatch.applyOperation(changed, step, true).newDocument;
    } catch (error) {
      throw new Problem(422, 'patch', `Step ${i + 1} of the change does not fit the draft (${(error as Error).name}).`);
    }
  }
  return changed;
}

async function withPortal<T>(
  sequelize: Sequelize,
  portalId: number,
  work: (portal: Portal, transaction: Transaction) => Promise<T>,
): Promise<T> {
  return sequelize.transaction(async (transaction) => {
    const portal = await Portal.findByPk(portalId, { transaction, lock: true, rejectOnEmpty: true });
    return work(portal, transaction);
  });
}
