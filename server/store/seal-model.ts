import { DataTypes, Model, type InferAttributes, type InferCreationAttributes, type Sequelize } from 'sequelize';
import { columnsOf } from './columns';

/** A seal over lines of the audit log, in a chain: each goes by the one before. */
export class AuditSeal extends Model<InferAttributes<AuditSeal>, InferCreationAttributes<AuditSeal>> {
  /** From 1, without gaps. */
  declare number: number;
  /** The number of the last line that it seals; it begins after the last of the one before. */
  declare lastId: number;
  /** Each line's number and digest, as JSON text. */
  declare lines: string;
  /** The digest of the seal before; empty for the first. */
  declare before: string;
  declare digest: string;
  declare sealedAt: Date;
}

export function defineSeals(sequelize: Sequelize): void {
  const { common, text } = columnsOf(sequelize);
  AuditSeal.init(
    {
      number: { type: DataTypes.BIGINT, primaryKey: true },
      lastId: DataTypes.BIGINT,
      lines: text,
      before: DataTypes.STRING(43),
      digest: DataTypes.CHAR(43),
      sealedAt: DataTypes.DATE(3),
    },
    { ...common, tableName: 'audit_seals' },
  );
}
