import {
  DataTypes,
  Model,
  type CreationOptional,
  type InferAttributes,
  type InferCreationAttributes,
  type Sequelize,
} from 'sequelize';
import type { Circle } from '../../core/definition/hung';
import { columnsOf } from './columns';

/** A record of which something was said, by an id of our own: what is said hangs on it, whatever its key becomes. */
export class DiscussedRecord extends Model<InferAttributes<DiscussedRecord>, InferCreationAttributes<DiscussedRecord>> {
  declare id: CreationOptional<number>;
  declare portalId: number;
  declare tableName: string;
  /** The columns that told it apart when something was first said, as JSON text. */
  declare keyColumns: string;
  declare recordKey: string;
  /** Of columns and key. */
  declare keyHash: string;
  /** 0 while it is there; else its own id, so that a key that is used again begins anew. */
  declare closed: CreationOptional<number>;
  declare closedAt: CreationOptional<Date | null>;
  /** The member who deleted the record, and what it held then, as a digest: for when it is undone. */
  declare closedBy: CreationOptional<number | null>;
  declare held: CreationOptional<string | null>;
  /** When it was last seen to be there. */
  declare lookedAt: CreationOptional<Date>;
}

/** What a member hung on a record: something said, or a file. */
export class Comment extends Model<InferAttributes<Comment>, InferCreationAttributes<Comment>> {
  declare id: CreationOptional<number>;
  declare recordId: number;
  /** Null once they are no member any more. */
  declare memberId: number | null;
  /** The role by which they wrote. */
  declare role: string;
  declare circle: Circle;
  /** Empty where it is a file. */
  declare text: string;
  declare fileId: CreationOptional<string | null>;
  /** What made the record somebody's then, as JSON text. */
  declare standing: string;
  declare writtenAt: Date;
  /** Where it says that a value is wrong: the column, what was meant, if that was said, and what stood there; JSON. */
  declare aboutColumn: CreationOptional<string | null>;
  declare meant: CreationOptional<string | null>;
  declare was: CreationOptional<string | null>;
}

export function defineComments(sequelize: Sequelize): void {
  const { common, id, reference, text } = columnsOf(sequelize);
  DiscussedRecord.init(
    {
      id,
      portalId: reference(),
      tableName: DataTypes.STRING(105),
      keyColumns: text,
      recordKey: text,
      keyHash: DataTypes.STRING(43),
      closed: { type: DataTypes.BIGINT, defaultValue: 0 },
      closedAt: { type: DataTypes.DATE(3), allowNull: true },
      closedBy: reference(true),
      held: { type: DataTypes.STRING(64), allowNull: true },
      lookedAt: { type: DataTypes.DATE(3), defaultValue: DataTypes.NOW },
    },
    { ...common, tableName: 'discussed_records' },
  );
  Comment.init(
    {
      id,
      recordId: reference(),
      memberId: reference(true),
      role: DataTypes.STRING(40),
      circle: DataTypes.STRING(10),
      text,
      fileId: { type: DataTypes.STRING(32), allowNull: true },
      standing: text,
      writtenAt: DataTypes.DATE(3),
      aboutColumn: { type: DataTypes.STRING(64), allowNull: true },
      meant: { type: DataTypes.TEXT('long'), allowNull: true },
      was: { type: DataTypes.TEXT('long'), allowNull: true },
    },
    { ...common, tableName: 'comments' },
  );
}
