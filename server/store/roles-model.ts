import {
  DataTypes,
  Model,
  type CreationOptional,
  type InferAttributes,
  type InferCreationAttributes,
  type Sequelize,
} from 'sequelize';
import { columnsOf } from './columns';

/** From when on members had a version of a portal. */
export class LiveVersion extends Model<InferAttributes<LiveVersion>, InferCreationAttributes<LiveVersion>> {
  declare id: CreationOptional<number>;
  declare portalId: number;
  declare number: number;
  declare at: Date;
}

/** A time over which it was looked again and again who has which roles, and nothing was another. */
export class RolesLook extends Model<InferAttributes<RolesLook>, InferCreationAttributes<RolesLook>> {
  declare id: CreationOptional<number>;
  declare portalId: number;
  /** The first and the last look. */
  declare at: Date;
  declare until: Date;
}

/** What a member was from a look on. */
export class RecordedRoles extends Model<InferAttributes<RecordedRoles>, InferCreationAttributes<RecordedRoles>> {
  declare id: CreationOptional<number>;
  declare portalId: number;
  declare memberId: number;
  declare at: Date;
  /** Their roles and the keys of their rows, as JSON text; null where they were no member any more. */
  declare state: string | null;
}

export function defineRoles(sequelize: Sequelize): void {
  const { common, id, reference } = columnsOf(sequelize);
  LiveVersion.init(
    { id, portalId: reference(), number: DataTypes.INTEGER, at: DataTypes.DATE(3) },
    { ...common, tableName: 'live_versions' },
  );
  RolesLook.init(
    { id, portalId: reference(), at: DataTypes.DATE(3), until: DataTypes.DATE(3) },
    { ...common, tableName: 'roles_looks' },
  );
  RecordedRoles.init(
    {
      id,
      portalId: reference(),
      memberId: reference(),
      at: DataTypes.DATE(3),
      state: { type: DataTypes.TEXT('long'), allowNull: true },
    },
    { ...common, tableName: 'recorded_roles' },
  );
}
