import type { Sequelize, Transaction } from 'sequelize';
import { Problem } from '../../core/refusals/problem';
import { Portal, Version } from '../store/models';
import { endKeysOfGone } from './follow-keys';
import { followPages } from './follow-pages';
import { LiveVersion } from '../store/roles-model';
import { PeopleState } from '../store/people-models';

/** Makes the draft the next version and points members to it. */
export function publishDraft(
  sequelize: Sequelize,
  portalId: number,
  revision: number,
  note: string,
  by: string,
): Promise<number> {
  return sequelize.transaction(async (transaction) => {
    const portal = await Portal.findByPk(portalId, { transaction, lock: true, rejectOnEmpty: true });
    if (portal.revision !== revision) {
      throw new Problem(
        409,
        'draft-changed',
        'The draft was changed in the meantime. Look at it once more before you publish.',
        { revision: portal.revision },
      );
    }
    const last = Number((await Version.max('number', { where: { portalId }, transaction })) ?? 0);
    await Version.create(
      { portalId, number: last + 1, document: portal.draft, note, publishedBy: by, publishedAt: new Date() },
      { transaction },
    );
    await followPages(portalId, await live(portal, transaction), portal.draft, transaction);
    await endKeysOfGone(portalId, portal.draft, transaction);
    await portal.update({ publishedVersion: last + 1 }, { transaction });
    await LiveVersion.create({ portalId, number: last + 1, at: new Date() }, { transaction });
    await lookAgain(portalId, transaction);
    return last + 1;
  });
}

/** Points members to an earlier version again, as it was checked; the draft stays as it is. */
export function publishAgain(sequelize: Sequelize, portalId: number, number: number, checked: string): Promise<void> {
  return sequelize.transaction(async (transaction) => {
    const portal = await Portal.findByPk(portalId, { transaction, lock: true, rejectOnEmpty: true });
    const version = await Version.findOne({ where: { portalId, number }, transaction });
    if (!version) throw new Problem(404, 'not-found', `There is no version ${number}.`);
    if (version.document !== checked || version.outdated !== null)
      throw new Problem(409, 'version-changed', 'Tables were renamed in the meantime. Publish it once more.');
    await followPages(portalId, await live(portal, transaction), version.document, transaction);
    await endKeysOfGone(portalId, version.document, transaction);
    await portal.update({ publishedVersion: number }, { transaction });
    await LiveVersion.create({ portalId, number, at: new Date() }, { transaction });
    await lookAgain(portalId, transaction);
  });
}

/** What members have before the change; undefined where nothing is published. */
async function live({ id, publishedVersion }: Portal, transaction: Transaction): Promise<string | undefined> {
  if (publishedVersion === null) return undefined;
  const version = await Version.findOne({ where: { portalId: id, number: publishedVersion }, transaction });
  return version?.document;
}

/** Rosters may be others now: the list of members is brought in line soon. */
async function lookAgain(portalId: number, transaction: Transaction): Promise<void> {
  await PeopleState.update({ refreshedAt: null }, { where: { portalId }, transaction });
}
