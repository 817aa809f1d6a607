import { DataTypes, type Model, type Sequelize } from 'sequelize';

/** What the columns of our own tables have in common. */
export function columnsOf(sequelize: Sequelize) {
  const common = { sequelize, timestamps: false, underscored: true };
  const id = {
    type: DataTypes.BIGINT,
    autoIncrement: true,
    primaryKey: true,
    get(this: Model) {
      return Number(this.getDataValue('id'));
    },
  };
  const reference = (nullable = false) => ({ type: DataTypes.BIGINT, allowNull: nullable });
  const text = DataTypes.TEXT('long');

  return { common, id, reference, text };
}
