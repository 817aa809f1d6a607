import {
  DataTypes,
  Model,
  type CreationOptional,
  type InferAttributes,
  type InferCreationAttributes,
  type Sequelize,
} from 'sequelize';
import { columnsOf } from './columns';

/** A press of somebody's, by the id that it was sent with. */
export class KeptPress extends Model<InferAttributes<KeptPress>, InferCreationAttributes<KeptPress>> {
  declare id: CreationOptional<number>;
  declare portalId: number;
  /** Of whoever pressed, and the press's own id. */
  declare pressHash: string;
  declare begunAt: Date;
  /** What came of it, as JSON text; null as long as that isn't known. */
  declare answer: string | null;
  /** What takes it back, sealed by the press's own id; null where nothing does. */
  declare takesBack: CreationOptional<string | null>;
  /** Of the receipt that lets whoever sent a form correct it; null where nothing can be corrected. */
  declare receiptHash: CreationOptional<string | null>;
  /** What can be corrected by it, as JSON text. */
  declare correctable: CreationOptional<string | null>;
}

export function definePresses(sequelize: Sequelize): void {
  const { common, id, reference } = columnsOf(sequelize);
  KeptPress.init(
    {
      id,
      portalId: reference(),
      pressHash: DataTypes.CHAR(43),
      begunAt: DataTypes.DATE(3),
      answer: { type: DataTypes.TEXT('long'), allowNull: true },
      takesBack: { type: DataTypes.TEXT('long'), allowNull: true },
      receiptHash: { type: DataTypes.CHAR(64), allowNull: true },
      correctable: { type: DataTypes.TEXT('long'), allowNull: true },
    },
    { ...common, tableName: 'presses' },
  );
}
