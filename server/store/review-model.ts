import {
  DataTypes,
  Model,
  type CreationOptional,
  type InferAttributes,
  type InferCreationAttributes,
  type Sequelize,
} from 'sequelize';
import { columnsOf } from './columns';

/** Who sees what, sent to a colleague to be signed line by line. */
export class AccessReview extends Model<InferAttributes<AccessReview>, InferCreationAttributes<AccessReview>> {
  declare id: CreationOptional<number>;
  declare portalId: number;
  declare version: number;
  declare madeBy: string;
  declare madeAt: Date;
  /** Who is to sign it, by number and as they were called. */
  declare builderId: number;
  declare reviewer: string;
  /** As JSON text. */
  declare lines: string;
  declare doneAt: CreationOptional<Date | null>;
}

export function defineReviews(sequelize: Sequelize): void {
  const { common, id, reference, text } = columnsOf(sequelize);
  AccessReview.init(
    {
      id,
      portalId: reference(),
      version: DataTypes.INTEGER,
      madeBy: DataTypes.STRING(200),
      madeAt: DataTypes.DATE(3),
      builderId: reference(),
      reviewer: DataTypes.STRING(200),
      lines: text,
      doneAt: { type: DataTypes.DATE(3), allowNull: true },
    },
    { ...common, tableName: 'access_reviews' },
  );
}
