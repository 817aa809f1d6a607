import {
  DataTypes,
  Model,
  type CreationOptional,
  type InferAttributes,
  type InferCreationAttributes,
  type Sequelize,
} from 'sequelize';
import { columnsOf } from './columns';

/** A proof run over a version of a portal, or over its draft, with what came of it. */
export class ProofRun extends Model<InferAttributes<ProofRun>, InferCreationAttributes<ProofRun>> {
  declare id: CreationOptional<number>;
  declare portalId: number;
  /** Null for the draft. */
  declare version: number | null;
  /** The draft's, as it was. */
  declare revision: number;
  declare madeBy: string;
  declare madeAt: Date;
  /** As JSON text. */
  declare result: string;
}

export function defineProofs(sequelize: Sequelize): void {
  const { common, id, reference, text } = columnsOf(sequelize);
  ProofRun.init(
    {
      id,
      portalId: reference(),
      version: DataTypes.INTEGER,
      revision: DataTypes.INTEGER,
      madeBy: DataTypes.STRING(200),
      madeAt: DataTypes.DATE(3),
      result: text,
    },
    { ...common, tableName: 'proof_runs' },
  );
}
