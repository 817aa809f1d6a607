import { type Renaming } from '../../core/definition/renamed-catalogue';
import { renameColumn, renameTable, dropMakings, listGone } from '../gate/gate';
import type { Sequelize, Transaction } from 'sequelize';
import type { PortalDefinition, PortalSource } from '../../core/definition/definition';
import { findColumn, findTable, type Catalogue } from '../../core/table/catalogue';
import { Problem } from '../../core/refusals/problem';
import type { CoreServices } from '../definitions/portal-services';
import { SourceGone } from '../sources/gone';
import type { Source } from '../sources/source';
import { countRightsChange } from '../store/rights-revision';
import { forgetShapeLeases, longestHeld, ShapeLease } from '../store/shape-lease';
import { Job, Portal, ShapeIntent } from '../store/models';
import { note, type Noted } from '../drafts/column-notes';
import { followRename } from '../drafts/follow-rename';

/**
 * Changes of the shape of tables. The database and the store are two; a change of both is written down first, so that
 * one that a server was stopped in is brought to its end at the next start, or known not to have happened.
 */
/** What follows in the store once the database has changed. */
export type ShapeChange =
  | { what: 'rename'; source: PortalSource; before: Catalogue; renaming: Renaming }
  /** Drawn or changed columns have meanings that the draft notes. `type` when an existing column changed its type. */
  | ({ what: 'note'; type: boolean } & Noted)
  | { what: 'nothing more' };

type Needed = Pick<CoreServices, 'store' | 'sources' | 'reached'>;

/**
 * Does one change at a time to a schema of the product's own database: writes it down, lets `alter` change the
 * database, and lets everything else follow.
 */
export async function changeShape<T>(
  services: Needed,
  schema: string,
  change: ShapeChange,
  alter: () => Promise<T>,
): Promise<T> {
  return leased(services.store.sequelize, schema, 5000, async (lease) => {
    const source = await services.sources.at({ kind: 'mariadb', schema });
    await settle(services, source, schema, lease);
    await ShapeIntent.create({ schemaName: schema, changeText: JSON.stringify(change), madeAt: new Date() });
    await services.reached?.('noted');
    let result: T;
    try {
      await lease.check();
      result = await alter();
      await services.reached?.('altered');
      await finish(services, schema, change, lease);
      await services.reached?.('followed');
    } catch (error) {
      // Where another server has gone on, it has settled this too.
      await lease.check();
      await settle(services, source, schema, lease);
      throw error;
    } finally {
      await source.catalogue(true);
    }
    return result;
  });
}

/**
 * At the start of a server: brings to an end what one before it was stopped in, in every schema where no other server
 * is at it.
 */
export async function settleShapes(services: Needed, alone: boolean): Promise<void> {
  if (alone) await forgetShapeLeases(services.store.sequelize);
  const busy = !alone && (await Job.count({ where: { kind: 'table from a file', state: ['running', 'saving'] } })) > 0;
  const schemas = new Set(
    (await Portal.findAll({ attributes: ['draft'] })).flatMap(({ draft }) => {
      const { source, sources } = JSON.parse(draft) as PortalDefinition;
      return [source, ...Object.values(sources ?? {})]
        .filter(({ connection }) => connection === undefined)
        .map((each) => each.schema);
    }),
  );
  const begun = new Set((await ShapeIntent.findAll()).map((intent) => intent.schemaName));
  for (const schema of new Set([...schemas, ...begun])) {
    // Whoever had begun there may be gone.
    await leased(services.store.sequelize, schema, begun.has(schema) ? longestHeld : 0, async (lease) => {
      const source = await services.sources.at({ kind: 'mariadb', schema });
      await settle(services, source, schema, lease);
      if (!busy) await dropMakings(source);
    }).catch((error: unknown) => {
      // Another server is at it, or the schema is gone: nothing of it can be open then.
      if (!(error instanceof Problem) && !(error instanceof SourceGone) && (error as { errno?: number }).errno !== 1049)
        throw error;
    });
  }
}

/** Has the shape of the schema's tables to itself while `work` runs; waits for it so many milliseconds. */
async function leased<T>(
  sequelize: Sequelize,
  schema: string,
  patience: number,
  work: (lease: ShapeLease) => Promise<T>,
): Promise<T> {
  const lease = await ShapeLease.take(sequelize, schema, patience);
  if (!lease) throw new Problem(409, 'shape-busy', 'Another change of the tables is under way. Try again in a moment.');
  try {
    return await work(lease);
  } finally {
    await lease.giveBack();
  }
}

/** What must follow, in one transaction with the end of the intent. */
async function finish(
  { store: { sequelize } }: Needed,
  schema: string,
  change: ShapeChange,
  lease: ShapeLease,
): Promise<void> {
  if (change.what === 'note') {
    await lease.check();
    await note(sequelize, change);
  }
  await sequelize.transaction(async (transaction: Transaction) => {
    await lease.check(transaction);
    if (change.what === 'rename')
      await followRename(sequelize, change.source, change.before, change.renaming, transaction);
    else await countRightsChange(sequelize, transaction);
    await ShapeIntent.destroy({ where: { schemaName: schema }, transaction });
  });
}

/** Ends an intent that is left: what the database has done is followed, or taken back where it can't be. */
async function settle(services: Needed, source: Source, schema: string, lease: ShapeLease): Promise<void> {
  const intent = await ShapeIntent.findByPk(schema);
  if (!intent) return;
  const change = JSON.parse(intent.changeText) as ShapeChange;
  const now = await source.catalogue(true);
  if (!(await hasHappened(change, now, source, intent.madeAt))) {
    await intent.destroy();
    return;
  }
  try {
    await finish(services, schema, change, lease);
  } catch (error) {
    if (change.what !== 'rename') throw error;
    await lease.check();
    const { table, column, to } = change.renaming;
    await (column === undefined ? renameTable(source, now, to, table) : renameColumn(source, now, table, to, column));
    await intent.destroy();
  }
}

async function hasHappened(change: ShapeChange, now: Catalogue, source: Source, since: Date): Promise<boolean> {
  switch (change.what) {
    case 'nothing more':
      return true;
    case 'rename': {
      const { table, column, to } = change.renaming;
      if (column === undefined) return findTable(now, to) !== undefined && findTable(now, table) === undefined;
      const known = findTable(now, table);
      return known !== undefined && findColumn(known, to) !== undefined && findColumn(known, column) === undefined;
    }
    case 'note': {
      const known = findTable(now, change.table);
      if (!change.type) return known !== undefined && change.columns.every((column) => findColumn(known, column.name));
      // The column as it was is set aside in the same statement in which the new one takes its place.
      return (await listGone(source, new Date())).some(
        (gone) =>
          gone.table === change.table && gone.was === change.columns[0]!.name && Date.parse(gone.at) >= since.getTime(),
      );
    }
  }
}
