import {
  DataTypes,
  Model,
  type CreationOptional,
  type InferAttributes,
  type InferCreationAttributes,
  type Sequelize,
} from 'sequelize';
import { columnsOf } from './columns';

/** What is done of a portal at a time of one day: an action with its records, or what is brought from an address. */
export class TimedRun extends Model<InferAttributes<TimedRun>, InferCreationAttributes<TimedRun>> {
  declare id: CreationOptional<number>;
  declare portalId: number;
  declare kind: 'action' | 'brought';
  /** The id of the action, or of what is brought. */
  declare subject: string;
  /** By the portal's clock. */
  declare day: string;
  /** `held` is what was brought and waits for a builder; `unsure` what nobody knows the end of. */
  declare state: 'running' | 'done' | 'held' | 'failed' | 'unsure';
  declare takenBy: string | null;
  declare beatAt: Date | null;
  /** Behind which record it goes on; null at the beginning. */
  declare place: CreationOptional<string | null>;
  /** What is being kept elsewhere at this moment, as JSON text. */
  declare goingTo: CreationOptional<string | null>;
  declare done: CreationOptional<number>;
  declare refused: CreationOptional<number>;
  /** The first thing that went wrong, in words. */
  declare problem: CreationOptional<string | null>;
  /** What came of what was brought, as JSON text. */
  declare result: CreationOptional<string | null>;
  declare begunAt: Date;
  declare endedAt: CreationOptional<Date | null>;
}

export function defineTimedRuns(sequelize: Sequelize): void {
  const { common, id, reference, text } = columnsOf(sequelize);
  TimedRun.init(
    {
      id,
      portalId: reference(),
      kind: DataTypes.STRING(12),
      subject: DataTypes.STRING(40),
      day: DataTypes.DATEONLY,
      state: DataTypes.STRING(12),
      takenBy: { type: DataTypes.STRING(40), allowNull: true },
      beatAt: { type: DataTypes.DATE(3), allowNull: true },
      place: { type: text, allowNull: true },
      goingTo: { type: text, allowNull: true },
      done: { type: DataTypes.INTEGER, defaultValue: 0 },
      refused: { type: DataTypes.INTEGER, defaultValue: 0 },
      problem: { type: DataTypes.STRING(1000), allowNull: true },
      result: { type: text, allowNull: true },
      begunAt: DataTypes.DATE(3),
      endedAt: { type: DataTypes.DATE(3), allowNull: true },
    },
    { ...common, tableName: 'timed_runs' },
  );
}
