import {
  DataTypes,
  Model,
  type CreationOptional,
  type InferAttributes,
  type InferCreationAttributes,
  type Sequelize,
} from 'sequelize';
import { columnsOf } from './columns';

/** What one write made of one record, of a table whose history is kept. */
export class KeptChange extends Model<InferAttributes<KeptChange>, InferCreationAttributes<KeptChange>> {
  declare id: CreationOptional<number>;
  declare portalId: number;
  declare tableName: string;
  declare recordId: string;
  /** Of the record's id. */
  declare recordHash: string;
  declare at: Date;
  /** `held` where nobody knows whether it was kept: its records lie on another server. */
  declare state: 'held' | 'kept';
  /** Of all lines of one write. */
  declare mark: string;
  /** All that stood in it before and after, as JSON text; null where there was no record, and once they are erased. */
  declare was: string | null;
  declare now: string | null;
  declare made: 'made' | 'changed' | 'deleted';
  declare byKind: 'member' | 'visitor' | 'service' | 'builder';
  declare memberId: number | null;
  /** The builder's, or the key's; null for others. */
  declare name: string | null;
  /** The role of services by which it was done. */
  declare role: string | null;
  declare action: string | null;
  declare form: string | null;
  declare brought: boolean;
  declare follows: boolean;
  declare erasedAt: Date | null;
}

/** Columns of `KeptChange`, as they stand in the database, in the order in which lines are written. */
export const changeColumns = [
  'portal_id',
  'table_name',
  'record_id',
  'record_hash',
  'at',
  'state',
  'mark',
  'was',
  'now',
  'made',
  'by_kind',
  'member_id',
  'name',
  'role',
  'action',
  'form',
  'brought',
  'follows',
] as const;

export function defineHistory(sequelize: Sequelize): void {
  const { common, id, reference } = columnsOf(sequelize);
  // One of its own for each: Sequelize notes in it which column it is of.
  const long = () => ({ type: DataTypes.TEXT('long'), allowNull: true });
  const short = () => ({ type: DataTypes.STRING(40), allowNull: true });
  KeptChange.init(
    {
      id,
      portalId: reference(),
      tableName: DataTypes.STRING(105),
      recordId: DataTypes.STRING(1000),
      recordHash: DataTypes.STRING(43),
      at: DataTypes.DATE(3),
      state: DataTypes.STRING(4),
      mark: DataTypes.STRING(32),
      was: long(),
      now: long(),
      made: DataTypes.STRING(7),
      byKind: DataTypes.STRING(10),
      memberId: reference(true),
      name: { type: DataTypes.STRING(200), allowNull: true },
      role: short(),
      action: short(),
      form: short(),
      brought: DataTypes.BOOLEAN,
      follows: DataTypes.BOOLEAN,
      erasedAt: { type: DataTypes.DATE(3), allowNull: true },
    },
    { ...common, tableName: 'record_changes' },
  );
}
