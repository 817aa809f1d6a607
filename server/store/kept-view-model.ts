import {
  DataTypes,
  Model,
  type CreationOptional,
  type InferAttributes,
  type InferCreationAttributes,
  type Sequelize,
} from 'sequelize';
import { columnsOf } from './columns';

/** How a member has a list stand, under a name. */
export class KeptView extends Model<InferAttributes<KeptView>, InferCreationAttributes<KeptView>> {
  declare id: CreationOptional<number>;
  declare portalId: number;
  declare memberId: number;
  declare page: string;
  declare section: string;
  declare tableName: string;
  declare name: string;
  /** The roles that it is shared with, as JSON text; null where with none. */
  declare roles: string | null;
  /** The addresses of those whom it is shared with, as JSON text; null where with nobody. */
  declare people: CreationOptional<string | null>;
  /** As JSON text. */
  declare standing: string;
}

export function defineKeptViews(sequelize: Sequelize): void {
  const { common, id, reference, text } = columnsOf(sequelize);
  KeptView.init(
    {
      id,
      portalId: reference(),
      memberId: reference(),
      page: DataTypes.STRING(40),
      section: DataTypes.STRING(40),
      tableName: DataTypes.STRING(105),
      name: DataTypes.STRING(60),
      roles: { type: DataTypes.TEXT, allowNull: true },
      people: { type: DataTypes.TEXT, allowNull: true },
      standing: text,
    },
    { ...common, tableName: 'kept_views' },
  );
}
