import { type Renaming } from '../../core/definition/renamed-catalogue';
import { renameColumn, renameTable, dropMakings, listGone } from '../gate/gate';
import { QueryTypes, type Sequelize, type Transaction } from 'sequelize';
import type { PortalDefinition, PortalSource } from '../../core/definition/definition';
import { findColumn, findTable, type Catalogue } from '../../core/table/catalogue';
import { Problem } from '../../core/refusals/problem';
import type { CoreServices } from '../definitions/portal-services';
import { SourceGone } from '../sources/gone';
import type { Source } from '../sources/source';
import { countRightsChange } from '../store/rights-revision';
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
  return locked(services.store.sequelize, schema, 5, async () => {
    const source = await services.sources.at({ kind: 'mariadb', schema });
    await settle(services, source, schema);
    await ShapeIntent.create({ schemaName: schema, changeText: JSON.stringify(change), madeAt: new Date() });
    await services.reached?.('noted');
    let result: T;
    try {
      result = await alter();
      await services.reached?.('altered');
      await finish(services, schema, change);
      await services.reached?.('followed');
    } catch (error) {
      await settle(services, source, schema);
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
  const busy = !alone && (await Job.count({ where: { kind: 'table from a file', state: ['running', 'saving'] } })) > 0;
  const schemas = new Set(
    (await Portal.findAll({ attributes: ['draft'] })).flatMap(({ draft }) => {
      const { source, sources } = JSON.parse(draft) as PortalDefinition;
      return [source, ...Object.values(sources ?? {})]
        .filter(({ connection }) => connection === undefined)
        .map((each) => each.schema);
    }),
  );
  for (const intent of await ShapeIntent.findAll()) schemas.add(intent.schemaName);
  for (const schema of schemas) {
    await locked(services.store.sequelize, schema, 0, async () => {
      const source = await services.sources.at({ kind: 'mariadb', schema });
      await settle(services, source, schema);
      if (!busy) await dropMakings(source);
    }).catch((error: unknown) => {
      // Another server is at it, or the schema is gone: nothing of it can be open then.
      if (!(error instanceof Problem) && !(error instanceof SourceGone) && (error as { errno?: number }).errno !== 1049)
        throw error;
    });
  }
}

/**
 * Holds the schema's lock of the database while `work` runs; it is let go of when this server's connection ends,
 * however that comes.
 */
function locked<T>(sequelize: Sequelize, schema: string, seconds: number, work: () => Promise<T>): Promise<T> {
  return sequelize.transaction(async (transaction) => {
    const lock = `porch shape ${schema}`.slice(0, 64);
    const [row] = await sequelize.query<{ got: number }>('SELECT GET_LOCK(?, ?) got', {
      replacements: [lock, seconds],
      type: QueryTypes.SELECT,
      transaction,
    });
    if (Number(row?.got) !== 1)
      throw new Problem(409, 'shape-busy', 'Another change of the tables is under way. Try again in a moment.');
    try {
      return await work();
    } finally {
      await sequelize.query('DO RELEASE_LOCK(?)', { replacements: [lock], transaction });
    }
  });
}

/** What must follow, in one transaction with the end of the intent. */
async function finish({ store: { sequelize } }: Needed, schema: string, change: ShapeChange): Promise<void> {
  if (change.what === 'note') await note(sequelize, change);
  await sequelize.transaction(async (transaction: Transaction) => {
    if (change.what === 'rename')
      await followRename(sequelize, change.source, change.before, change.renaming, transaction);
    else await countRightsChange(sequelize, transaction);
    await ShapeIntent.destroy({ where: { schemaName: schema }, transaction });
  });
}

/** Ends an intent that is left: what the database has done is followed, or taken back where it can't be. */
async function settle(services: Needed, source: Source, schema: string): Promise<void> {
  const intent = await ShapeIntent.findByPk(schema);
  if (!intent) return;
  const change = JSON.parse(intent.changeText) as ShapeChange;
  const now = await source.catalogue(true);
  if (!(await hasHappened(change, now, source, intent.madeAt))) {
    await intent.destroy();
    return;
  }
  try {
    await finish(services, schema, change);
  } catch (error) {
    if (change.what !== 'rename') throw error;
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
