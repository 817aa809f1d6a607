import {
  DataTypes,
  Model,
  type CreationOptional,
  type InferAttributes,
  type InferCreationAttributes,
  type Sequelize,
} from 'sequelize';
import { columnsOf } from './columns';

/** A key by which a program works as one of a portal's services. */
export class ServiceKey extends Model<InferAttributes<ServiceKey>, InferCreationAttributes<ServiceKey>> {
  declare id: CreationOptional<number>;
  declare portalId: number;
  declare role: string;
  /** What builders call it. */
  declare name: string;
  /** The part of it that is shown, to know it by. */
  declare beginning: string;
  declare keyHash: string;
  /** From where alone it is used, as JSON text: addresses and networks; from anywhere when empty. */
  declare addresses: string;
  /** So many requests a minute at most. */
  declare aMinute: number;
  declare madeAt: Date;
  declare madeBy: string;
  /** Null while it has no end. */
  declare endsAt: CreationOptional<Date | null>;
  /** Who ended it before its time. */
  declare endedBy: CreationOptional<string | null>;
  declare usedAt: CreationOptional<Date | null>;
  declare usedFrom: CreationOptional<string | null>;
}

export function defineKeys(sequelize: Sequelize): void {
  const { common, id, reference } = columnsOf(sequelize);
  // Each its own: Sequelize writes into what it is given.
  const moment = () => ({ type: DataTypes.DATE(3), allowNull: true });
  const who = DataTypes.STRING(200);
  ServiceKey.init(
    {
      id,
      portalId: reference(),
      role: DataTypes.STRING(40),
      name: DataTypes.STRING(80),
      beginning: DataTypes.STRING(20),
      keyHash: DataTypes.CHAR(43),
      addresses: DataTypes.TEXT,
      aMinute: DataTypes.INTEGER,
      madeAt: DataTypes.DATE(3),
      madeBy: who,
      endsAt: moment(),
      endedBy: { type: who, allowNull: true },
      usedAt: moment(),
      usedFrom: { type: DataTypes.STRING(64), allowNull: true },
    },
    { ...common, tableName: 'service_keys' },
  );
}
