import {
  DataTypes,
  Model,
  type CreationOptional,
  type InferAttributes,
  type InferCreationAttributes,
  type Sequelize,
} from 'sequelize';
import { columnsOf } from './columns';

/** That a form was sent: who did, where that is known and asked for. */
export class FormSent extends Model<InferAttributes<FormSent>, InferCreationAttributes<FormSent>> {
  declare id: CreationOptional<number>;
  declare portalId: number;
  declare form: string;
  /** Null for visitors. */
  declare memberId: number | null;
}

/** How often something was turned away at a public form for one reason on one day: no word of whom. */
export class TurnedAway extends Model<InferAttributes<TurnedAway>, InferCreationAttributes<TurnedAway>> {
  declare id: CreationOptional<number>;
  declare portalId: number;
  declare form: string;
  declare why: string;
  /** In UTC. */
  declare day: string;
  declare times: number;
  declare last: Date;
}

export function defineForms(sequelize: Sequelize): void {
  const { common, id, reference } = columnsOf(sequelize);
  FormSent.init(
    { id, portalId: reference(), form: DataTypes.STRING(40), memberId: reference(true) },
    { ...common, tableName: 'forms_sent' },
  );
  TurnedAway.init(
    {
      id,
      portalId: reference(),
      form: DataTypes.STRING(40),
      why: DataTypes.STRING(40),
      day: DataTypes.DATEONLY,
      times: DataTypes.INTEGER,
      last: DataTypes.DATE(3),
    },
    { ...common, tableName: 'turned_away' },
  );
}
