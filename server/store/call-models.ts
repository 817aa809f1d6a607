import {
  DataTypes,
  Model,
  type CreationOptional,
  type InferAttributes,
  type InferCreationAttributes,
  type Sequelize,
} from 'sequelize';
import { columnsOf } from './columns';

/** A call to an address outside, from before what it tells of is kept until long after it was answered. */
export class OutsideCall extends Model<InferAttributes<OutsideCall>, InferCreationAttributes<OutsideCall>> {
  declare id: CreationOptional<number>;
  declare portalId: number;
  /** Whoever pressed; null for visitors. */
  declare memberId: number | null;
  /** The role of services by which it was done by itself; null where somebody pressed. */
  declare role: CreationOptional<string | null>;
  declare action: string;
  /** The place of the call among the steps of its action. */
  declare step: number;
  declare address: string;
  declare tableName: string;
  declare recordId: string;
  /** Of address, table and record: calls of one come one after the other. */
  declare laneHash: string;
  /** The same for every try: outside it tells that it is one call. */
  declare onceKey: string;
  /** What is sent, as JSON text. */
  declare body: string;
  /** Whether what it is answered goes into the record. */
  declare answers: boolean;
  /** `held` until what it tells of is kept. */
  declare state: 'held' | 'waiting' | 'sending' | 'done' | 'given up' | 'unsure';
  /** Held calls of records on our own server are let go in their transaction: one that still is held is of nothing. */
  declare beside: boolean;
  declare tries: CreationOptional<number>;
  /** Of the last answer (RFC 9110). */
  declare status: CreationOptional<number | null>;
  /** What it was answered last, as far as it is kept. */
  declare answer: CreationOptional<string | null>;
  /** What went wrong last, in words. */
  declare problem: CreationOptional<string | null>;
  declare madeAt: Date;
  declare nextTry: Date;
  declare takenBy: CreationOptional<string | null>;
  declare doneAt: CreationOptional<Date | null>;
}

/** What calls to an address are signed with. */
export class AddressSecret extends Model<InferAttributes<AddressSecret>, InferCreationAttributes<AddressSecret>> {
  declare portalId: number;
  declare address: string;
  declare sealed: string;
  /** The one before, by which calls are signed as well for a while. */
  declare sealedBefore: CreationOptional<string | null>;
  declare madeAt: Date;
}

export function defineCalls(sequelize: Sequelize): void {
  const { common, id, reference, text } = columnsOf(sequelize);
  OutsideCall.init(
    {
      id,
      portalId: reference(),
      memberId: reference(true),
      role: { type: DataTypes.STRING(40), allowNull: true },
      action: DataTypes.STRING(40),
      step: DataTypes.INTEGER,
      address: DataTypes.STRING(40),
      tableName: DataTypes.STRING(105),
      recordId: DataTypes.STRING(1000),
      laneHash: DataTypes.CHAR(43),
      onceKey: DataTypes.STRING(60),
      body: text,
      answers: DataTypes.BOOLEAN,
      state: DataTypes.STRING(12),
      beside: DataTypes.BOOLEAN,
      tries: { type: DataTypes.INTEGER, defaultValue: 0 },
      status: { type: DataTypes.INTEGER, allowNull: true },
      answer: { type: text, allowNull: true },
      problem: { type: DataTypes.STRING(1000), allowNull: true },
      madeAt: DataTypes.DATE(3),
      nextTry: DataTypes.DATE(3),
      takenBy: { type: DataTypes.STRING(40), allowNull: true },
      doneAt: { type: DataTypes.DATE(3), allowNull: true },
    },
    { ...common, tableName: 'outside_calls' },
  );
  AddressSecret.init(
    {
      portalId: { ...reference(), primaryKey: true },
      address: { type: DataTypes.STRING(40), primaryKey: true },
      sealed: DataTypes.TEXT,
      sealedBefore: { type: DataTypes.TEXT, allowNull: true },
      madeAt: DataTypes.DATE(3),
    },
    { ...common, tableName: 'address_secrets' },
  );
}
