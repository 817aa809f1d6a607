import {
  DataTypes,
  Model,
  type CreationOptional,
  type InferAttributes,
  type InferCreationAttributes,
  type Sequelize,
} from 'sequelize';
import { columnsOf } from './columns';

/** Who comes in and how, and what is sent to them. */

export class Member extends Model<InferAttributes<Member>, InferCreationAttributes<Member>> {
  declare id: CreationOptional<number>;
  declare portalId: number;
  /** Trimmed and in lower case. */
  declare email: string;
  declare name: string;
  /** Whether a row of a roster made them a member when it was last looked at. */
  declare onRoster: boolean;
  /** They came by an open domain, and stand on no roster. */
  declare withoutRow: CreationOptional<boolean>;
  declare passwordHash: string | null;
  declare knownSince: CreationOptional<Date>;
  declare goneSince: CreationOptional<Date | null>;
  declare lastIn: CreationOptional<Date | null>;
  declare invitedAt: CreationOptional<Date | null>;
  /** Who suspended them, why and since when, as JSON text; null when nobody did. */
  declare suspended: CreationOptional<string | null>;
  /** Roles given to them by hand, as JSON text; null when there are none. */
  declare given: CreationOptional<string | null>;
}

/** Which row of which roster a member is known by. */
export class Membership extends Model<InferAttributes<Membership>, InferCreationAttributes<Membership>> {
  declare portalId: number;
  declare memberId: number;
  declare rosterTable: string;
  declare rowKey: string;
  /** Whether the row made them a member when it was last looked at; kept where not, should it come back. */
  declare holds: boolean;
}

/** When a portal's members were last brought in line with the rosters, and what came of it. */
export class PeopleState extends Model<InferAttributes<PeopleState>, InferCreationAttributes<PeopleState>> {
  declare portalId: number;
  declare refreshedAt: CreationOptional<Date | null>;
  /** As JSON text. */
  declare outcome: CreationOptional<string | null>;
}

export class Session extends Model<InferAttributes<Session>, InferCreationAttributes<Session>> {
  /** SHA-256 of the cookie's token in hexadecimal: who reads the table can't take a session over. */
  declare tokenHash: string;
  /** What must still be proven before it lets anybody in; null when nothing. */
  declare lacks: CreationOptional<'second factor' | null>;
  /** What it is called where it may be told. */
  declare id: CreationOptional<number>;
  declare builderId: number | null;
  declare memberId: number | null;
  declare expiresAt: Date;
  declare seenAt: Date;
  declare beganAt: CreationOptional<Date | null>;
  /** What the browser said of itself. */
  declare device: CreationOptional<string | null>;
}

/** A mail on its way out, or what became of it. */
export class OutboxMail extends Model<InferAttributes<OutboxMail>, InferCreationAttributes<OutboxMail>> {
  declare id: CreationOptional<number>;
  /** Null for the installation's own, to its builders. */
  declare portalId: number | null;
  declare memberId: number | null;
  declare kind: string;
  declare recipient: string;
  declare subject: string;
  /** With the secret's mark where the secret stands. */
  declare text: string;
  declare html: string;
  /** The secret that is put in when it is sent, sealed; null where there is none any more. */
  declare sealed: string | null;
  /** What is sent to somebody once for one reason has one key. */
  declare onceKey: CreationOptional<string | null>;
  /** The job that wrote it. */
  declare batch: CreationOptional<number | null>;
  /** Held mails of records on our own server are let go in their transaction: one that still is held is of nothing. */
  declare beside: CreationOptional<boolean>;
  /** `held` until what it tells of is kept. */
  declare state: 'held' | 'waiting' | 'sending' | 'sent' | 'given up' | 'unsure' | 'cancelled';
  declare tries: CreationOptional<number>;
  /** What the mail server said last. */
  declare answer: CreationOptional<string | null>;
  declare madeAt: Date;
  declare nextTry: Date;
  /** After this it would be of no use any more. */
  declare notAfter: CreationOptional<Date | null>;
  declare takenBy: CreationOptional<string | null>;
  declare sentAt: CreationOptional<Date | null>;
}

/** Somebody asked at a door for a code or a link, and gave an address; whether it is a member's is found out later. */
export class DoorCall extends Model<InferAttributes<DoorCall>, InferCreationAttributes<DoorCall>> {
  declare id: CreationOptional<number>;
  /** Null at the bench. */
  declare portalId: number | null;
  declare email: string;
  declare wants: 'code' | 'password';
  /** By what the browser is known that asked. */
  declare browserHash: string;
  /** `waiting` until it is looked at; `sent` when a mail was written; `used` when the code was. */
  declare state: 'waiting' | 'sent' | 'nobody' | 'used';
  declare codeHash: CreationOptional<string | null>;
  declare tries: CreationOptional<number>;
  declare madeAt: Date;
  declare endsAt: Date;
}

/** A link that works once, for the member and the address that it was sent to. */
export class MailLink extends Model<InferAttributes<MailLink>, InferCreationAttributes<MailLink>> {
  /** SHA-256 of the link's token in hexadecimal. */
  declare tokenHash: string;
  declare kind: 'invitation' | 'password';
  declare memberId: number;
  declare email: string;
  declare expiresAt: Date;
  declare usedAt: CreationOptional<Date | null>;
}

/** The key by which somebody's codes of the moment are made (RFC 6238), and what stands in when it is lost. */
export class SecondFactor extends Model<InferAttributes<SecondFactor>, InferCreationAttributes<SecondFactor>> {
  declare id: CreationOptional<number>;
  /** A member's, or of somebody who builds. */
  declare memberId: CreationOptional<number | null>;
  declare builderId: CreationOptional<number | null>;
  declare sealedSecret: string;
  /** The step of the last code that was taken: none is taken twice. */
  declare lastStep: number;
  /** Hashes of recovery codes that were not used yet, as JSON text. */
  declare recovery: string;
  declare madeAt: Date;
}

/** A passkey of a member, or of somebody who builds (WebAuthn). */
export class Passkey extends Model<InferAttributes<Passkey>, InferCreationAttributes<Passkey>> {
  /** The credential's id, in base64url. */
  declare id: string;
  declare memberId: CreationOptional<number | null>;
  declare builderId: CreationOptional<number | null>;
  declare name: string;
  /** In base64url. */
  declare publicKey: string;
  declare counter: number;
  /** As JSON text. */
  declare transports: string;
  declare madeAt: Date;
  declare usedAt: CreationOptional<Date | null>;
}

/** Records that a steward gave from one person to another. */
export class HandOver extends Model<InferAttributes<HandOver>, InferCreationAttributes<HandOver>> {
  declare id: CreationOptional<number>;
  declare portalId: number;
  /** Who did it. */
  declare memberId: number;
  /** What they did it as, by its id. */
  declare steward: string;
  /** From whom, to whom and how many of each table, as JSON text. */
  declare told: string;
  /** Each record and how it stood then, as JSON text. */
  declare records: string;
  declare at: Date;
  /** What taking it back came to, as JSON text; null where nobody did. */
  declare undone: CreationOptional<string | null>;
}

/** Somebody asks to come in who is new. Nothing of it stands in the roster before they prove the address. */
export class SignUpRequest extends Model<InferAttributes<SignUpRequest>, InferCreationAttributes<SignUpRequest>> {
  declare id: CreationOptional<number>;
  declare portalId: number;
  /** By which sign-up, by its id. */
  declare signUp: string;
  /** As typed, trimmed and in lower case. */
  declare email: string;
  /** What was filled in, by column, as JSON text. */
  declare content: string;
  /**
   * `asked` until a mail is written, then `sent`, or `nobody` where there is nobody new; `waiting` for an approver once
   * proven; `entering` while the row is made; `done` when it was, `refused` when it was not.
   */
  declare state: 'asked' | 'sent' | 'nobody' | 'waiting' | 'entering' | 'done' | 'refused';
  /** SHA-256 of the mail's token in hexadecimal. */
  declare tokenHash: CreationOptional<string | null>;
  declare madeAt: Date;
  /** Until when the address can be proven. */
  declare endsAt: Date;
  /** Who agreed or refused, or why the row could not be made. */
  declare decided: CreationOptional<string | null>;
  declare enteringSince: CreationOptional<Date | null>;
}

/** What a browser was given to come back with, once. */
export class Ticket extends Model<InferAttributes<Ticket>, InferCreationAttributes<Ticket>> {
  declare ticketHash: string;
  declare kind: string;
  /** Null at the bench. */
  declare portalId: number | null;
  declare browserHash: string;
  /** As JSON text. */
  declare content: string;
  declare endsAt: Date;
}

/** Binds the models to a connection, as part of all of them. */
export function definePeopleModels(sequelize: Sequelize): void {
  const { common, id, reference, text } = columnsOf(sequelize);
  Member.init(
    {
      id,
      portalId: reference(),
      email: DataTypes.STRING(254),
      name: DataTypes.STRING(200),
      onRoster: DataTypes.BOOLEAN,
      withoutRow: { type: DataTypes.BOOLEAN, defaultValue: false },
      passwordHash: { type: DataTypes.STRING(255), allowNull: true },
      knownSince: { type: DataTypes.DATE, defaultValue: DataTypes.NOW },
      goneSince: { type: DataTypes.DATE, allowNull: true },
      lastIn: { type: DataTypes.DATE, allowNull: true },
      invitedAt: { type: DataTypes.DATE, allowNull: true },
      suspended: { type: text, allowNull: true },
      given: { type: text, allowNull: true },
    },
    { ...common, tableName: 'members' },
  );
  Membership.init(
    {
      portalId: reference(),
      memberId: { ...reference(), primaryKey: true },
      rosterTable: { type: DataTypes.STRING(105), primaryKey: true },
      rowKey: DataTypes.STRING(300),
      holds: { type: DataTypes.BOOLEAN, defaultValue: true },
    },
    { ...common, tableName: 'memberships' },
  );
  PeopleState.init(
    {
      portalId: { ...reference(), primaryKey: true },
      refreshedAt: { type: DataTypes.DATE(3), allowNull: true },
      outcome: { type: text, allowNull: true },
    },
    { ...common, tableName: 'people_state' },
  );
  Session.init(
    {
      tokenHash: { type: DataTypes.CHAR(64), primaryKey: true },
      id: { type: DataTypes.BIGINT, get: id.get },
      builderId: reference(true),
      memberId: reference(true),
      expiresAt: DataTypes.DATE,
      seenAt: DataTypes.DATE,
      lacks: { type: DataTypes.STRING(20), allowNull: true },
      beganAt: { type: DataTypes.DATE, allowNull: true },
      device: { type: DataTypes.STRING(300), allowNull: true },
    },
    { ...common, tableName: 'sessions' },
  );
  OutboxMail.init(
    {
      id,
      portalId: reference(true),
      memberId: reference(true),
      kind: DataTypes.STRING(40),
      recipient: DataTypes.STRING(254),
      subject: DataTypes.STRING(500),
      text,
      html: text,
      sealed: { type: text, allowNull: true },
      onceKey: { type: DataTypes.STRING(120), allowNull: true },
      batch: reference(true),
      beside: { type: DataTypes.BOOLEAN, defaultValue: false },
      state: DataTypes.STRING(12),
      tries: { type: DataTypes.INTEGER, defaultValue: 0 },
      answer: { type: DataTypes.STRING(1000), allowNull: true },
      madeAt: DataTypes.DATE(3),
      nextTry: DataTypes.DATE(3),
      notAfter: { type: DataTypes.DATE(3), allowNull: true },
      takenBy: { type: DataTypes.STRING(40), allowNull: true },
      sentAt: { type: DataTypes.DATE(3), allowNull: true },
    },
    { ...common, tableName: 'outbox' },
  );
  SecondFactor.init(
    {
      id,
      memberId: reference(true),
      builderId: reference(true),
      sealedSecret: DataTypes.TEXT,
      lastStep: DataTypes.BIGINT,
      recovery: text,
      madeAt: DataTypes.DATE,
    },
    { ...common, tableName: 'second_factors' },
  );
  Passkey.init(
    {
      id: { type: DataTypes.STRING(700), primaryKey: true },
      memberId: reference(true),
      builderId: reference(true),
      name: DataTypes.STRING(100),
      publicKey: DataTypes.TEXT,
      counter: DataTypes.BIGINT,
      transports: DataTypes.STRING(200),
      madeAt: DataTypes.DATE,
      usedAt: { type: DataTypes.DATE, allowNull: true },
    },
    { ...common, tableName: 'passkeys' },
  );
  HandOver.init(
    {
      id,
      portalId: reference(),
      memberId: reference(),
      steward: DataTypes.STRING(64),
      told: text,
      records: text,
      at: DataTypes.DATE(3),
      undone: { type: text, allowNull: true },
    },
    { ...common, tableName: 'hand_overs' },
  );
  SignUpRequest.init(
    {
      id,
      portalId: reference(),
      signUp: DataTypes.STRING(64),
      email: DataTypes.STRING(254),
      content: text,
      state: DataTypes.STRING(12),
      tokenHash: { type: DataTypes.CHAR(64), allowNull: true },
      madeAt: DataTypes.DATE(3),
      endsAt: DataTypes.DATE(3),
      decided: { type: DataTypes.STRING(500), allowNull: true },
      enteringSince: { type: DataTypes.DATE(3), allowNull: true },
    },
    { ...common, tableName: 'sign_ups' },
  );
  Ticket.init(
    {
      ticketHash: { type: DataTypes.CHAR(64), primaryKey: true },
      kind: DataTypes.STRING(20),
      portalId: reference(true),
      browserHash: DataTypes.CHAR(64),
      content: text,
      endsAt: DataTypes.DATE(3),
    },
    { ...common, tableName: 'tickets' },
  );
  DoorCall.init(
    {
      id,
      portalId: reference(true),
      email: DataTypes.STRING(254),
      wants: DataTypes.STRING(20),
      browserHash: DataTypes.CHAR(64),
      state: DataTypes.STRING(12),
      codeHash: { type: DataTypes.CHAR(64), allowNull: true },
      tries: { type: DataTypes.INTEGER, defaultValue: 0 },
      madeAt: DataTypes.DATE(3),
      endsAt: DataTypes.DATE(3),
    },
    { ...common, tableName: 'door_calls' },
  );
  MailLink.init(
    {
      tokenHash: { type: DataTypes.CHAR(64), primaryKey: true },
      kind: DataTypes.STRING(20),
      memberId: reference(),
      email: DataTypes.STRING(254),
      expiresAt: DataTypes.DATE,
      usedAt: { type: DataTypes.DATE, allowNull: true },
    },
    { ...common, tableName: 'links' },
  );
}
