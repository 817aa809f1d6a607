import {
  DataTypes,
  Model,
  type CreationOptional,
  type InferAttributes,
  type InferCreationAttributes,
  type Sequelize,
} from 'sequelize';
import { columnsOf } from './columns';
import { defineComments } from './comment-models';
import { defineCalls } from './call-models';
import { defineKeys } from './key-models';
import { defineHistory } from './history-model';
import { defineReviews } from './review-model';
import { defineRoles } from './roles-model';
import { defineProofs } from './proof-model';
import { defineSeals } from './seal-model';
import { defineForms } from './form-models';
import { defineTimedRuns } from './timed-models';
import { definePresses } from './press-model';
import { defineKeptViews } from './kept-view-model';
import { definePeopleModels } from './people-models';

/** The product's own tables. Portals' records are never here. */

export class Builder extends Model<InferAttributes<Builder>, InferCreationAttributes<Builder>> {
  declare id: CreationOptional<number>;
  declare email: string;
  declare name: string;
  /** Null until they have chosen one. */
  declare passwordHash: string | null;
  /** `owner`: all, and the other builders. `builder`: these portals. `reader`: looks and changes nothing. */
  declare right: CreationOptional<'owner' | 'builder' | 'reader'>;
  /** The numbers of the portals that they may work at, as JSON text; null for all. */
  declare portals: CreationOptional<string | null>;
  declare suspended: CreationOptional<boolean>;
  /** Whether they see personal data as it is; stand-ins otherwise. */
  declare seesPersonal: CreationOptional<boolean>;
  declare lastIn: CreationOptional<Date | null>;
}

/** A link by which a builder chooses their password, once. */
export class BuilderLink extends Model<InferAttributes<BuilderLink>, InferCreationAttributes<BuilderLink>> {
  /** SHA-256 of the link's token in hexadecimal. */
  declare tokenHash: string;
  declare builderId: number;
  declare expiresAt: Date;
}

export class Portal extends Model<InferAttributes<Portal>, InferCreationAttributes<Portal>> {
  declare id: CreationOptional<number>;
  declare slug: string;
  /** The draft: a definition as JSON text. */
  declare draft: string;
  /** Counts every change of the draft, undo and redo included. */
  declare revision: number;
  /** The version that members get; null before the first publish. */
  declare publishedVersion: number | null;
  /** The portal's own address, as `https://wells.example.org`; null where it has none beside the installation's. */
  declare address: CreationOptional<string | null>;
}

export class Version extends Model<InferAttributes<Version>, InferCreationAttributes<Version>> {
  declare portalId: number;
  declare number: number;
  declare document: string;
  declare note: string;
  declare publishedBy: string;
  declare publishedAt: Date;
  /** Why it can't be published again; null when it can. */
  declare outdated: CreationOptional<string | null>;
}

/** One change of a draft with the patches (RFC 6902) that make and unmake it. */
export class DraftEdit extends Model<InferAttributes<DraftEdit>, InferCreationAttributes<DraftEdit>> {
  declare id: CreationOptional<number>;
  declare portalId: number;
  declare label: string;
  declare forward: string;
  declare backward: string;
  declare undone: boolean;
  declare builderId: number | null;
  declare madeAt: Date;
}

/** A database that builders connected. */
export class Connection extends Model<InferAttributes<Connection>, InferCreationAttributes<Connection>> {
  declare id: CreationOptional<number>;
  /** What definitions call it by. */
  declare name: string;
  declare kind: 'mariadb' | 'postgresql';
  declare host: string;
  declare port: number;
  declare database: string;
  declare user: string;
  /** Sealed under a key that is not in the database; see sources/secret.ts. */
  declare sealedPassword: string;
  declare tls: 'off' | 'on' | 'verified';
  /** The ids of the builders who may use it, as JSON text; null for all. */
  declare builders: CreationOptional<string | null>;
  /** Counts every change, so that open pools of an older one are not used. */
  declare revision: number;
}

/** A file that was brought or made, in pieces of its own table. Gone after `goneAt` when that is set. */
export class StoredFile extends Model<InferAttributes<StoredFile>, InferCreationAttributes<StoredFile>> {
  /** Not to be guessed: it is all that an address of the file needs beside the right to it. */
  declare id: string;
  declare portalId: number;
  declare name: string;
  declare size: number;
  /** What the file is for, as its maker says: brought for an import, made by an export, held by a column. */
  declare purpose: string;
  declare type: string;
  /** What was found out about it, as JSON text. */
  declare facts: string;
  declare goneAt: Date | null;
}

/** Long work that goes on behind a page. */
export class Job extends Model<InferAttributes<Job>, InferCreationAttributes<Job>> {
  declare id: CreationOptional<number>;
  declare portalId: number;
  declare kind: string;
  /** Whose it is: a builder or a member, by their number; a service has none. */
  declare ownerKind: 'builder' | 'member' | 'service';
  declare ownerId: number | null;
  declare state: 'waiting' | 'running' | 'saving' | 'done' | 'failed' | 'cancelled';
  declare input: string;
  /** What came of it, or the problem, as JSON text. */
  declare result: string | null;
  declare done: number;
  declare total: number | null;
  declare cancelWanted: boolean;
  /** Which worker has it, and when it last said so. */
  declare worker: string | null;
  declare beatAt: Date | null;
  declare madeAt: Date;
}

/** How the columns of a file went into a table the last time. */
export class ImportMapping extends Model<InferAttributes<ImportMapping>, InferCreationAttributes<ImportMapping>> {
  declare portalId: number;
  declare tableName: string;
  declare mapping: string;
}

/** A line of a portal's audit log. */
export class AuditEntry extends Model<InferAttributes<AuditEntry>, InferCreationAttributes<AuditEntry>> {
  declare id: CreationOptional<number>;
  /** Null for what holds for every portal. */
  declare portalId: number | null;
  declare at: Date;
  declare who: string;
  declare what: string;
  declare about: string;
}

/** A change of the shape of tables that was begun and is not known to have ended: one at a time for each schema. */
export class ShapeIntent extends Model<InferAttributes<ShapeIntent>, InferCreationAttributes<ShapeIntent>> {
  declare schemaName: string;
  declare changeText: string;
  declare madeAt: Date;
}

/** Settings of the installation, such as whether it holds the demo. */
export class Setting extends Model<InferAttributes<Setting>, InferCreationAttributes<Setting>> {
  declare name: string;
  declare value: string;
}

/** Binds the models to a connection. Called once in a process. */
export function defineModels(sequelize: Sequelize): void {
  const { common, id, reference, text } = columnsOf(sequelize);
  Builder.init(
    {
      id,
      email: DataTypes.STRING(254),
      name: DataTypes.STRING(120),
      passwordHash: { type: DataTypes.STRING(255), allowNull: true },
      right: { type: DataTypes.STRING(10), defaultValue: 'owner' },
      portals: { type: text, allowNull: true },
      suspended: { type: DataTypes.BOOLEAN, defaultValue: false },
      seesPersonal: { type: DataTypes.BOOLEAN, defaultValue: true },
      lastIn: { type: DataTypes.DATE, allowNull: true },
    },
    { ...common, tableName: 'builders' },
  );
  BuilderLink.init(
    {
      tokenHash: { type: DataTypes.CHAR(64), primaryKey: true },
      builderId: reference(),
      expiresAt: DataTypes.DATE,
    },
    { ...common, tableName: 'builder_links' },
  );
  Portal.init(
    {
      id,
      slug: DataTypes.STRING(40),
      draft: text,
      revision: DataTypes.INTEGER,
      publishedVersion: { type: DataTypes.INTEGER, allowNull: true },
      address: { type: DataTypes.STRING(300), allowNull: true },
    },
    { ...common, tableName: 'portals' },
  );
  Version.init(
    {
      portalId: { ...reference(), primaryKey: true },
      number: { type: DataTypes.INTEGER, primaryKey: true },
      document: text,
      note: DataTypes.STRING(500),
      publishedBy: DataTypes.STRING(120),
      publishedAt: DataTypes.DATE,
      outdated: { type: DataTypes.STRING(500), allowNull: true },
    },
    { ...common, tableName: 'versions' },
  );
  DraftEdit.init(
    {
      id,
      portalId: reference(),
      label: DataTypes.STRING(200),
      forward: text,
      backward: text,
      undone: DataTypes.BOOLEAN,
      builderId: reference(true),
      madeAt: DataTypes.DATE,
    },
    { ...common, tableName: 'draft_edits' },
  );
  Connection.init(
    {
      id,
      name: DataTypes.STRING(40),
      kind: DataTypes.STRING(20),
      host: DataTypes.STRING(255),
      port: DataTypes.INTEGER,
      database: DataTypes.STRING(64),
      user: DataTypes.STRING(128),
      sealedPassword: DataTypes.TEXT,
      tls: DataTypes.STRING(10),
      builders: { type: text, allowNull: true },
      revision: DataTypes.INTEGER,
    },
    { ...common, tableName: 'connections' },
  );
  StoredFile.init(
    {
      id: { type: DataTypes.CHAR(32), primaryKey: true },
      portalId: reference(),
      name: DataTypes.STRING(255),
      size: {
        type: DataTypes.BIGINT,
        get(this: Model) {
          return Number(this.getDataValue('size'));
        },
      },
      purpose: DataTypes.STRING(40),
      type: DataTypes.STRING(127),
      facts: text,
      goneAt: { type: DataTypes.DATE, allowNull: true },
    },
    { ...common, tableName: 'files' },
  );
  Job.init(
    {
      id,
      portalId: reference(),
      kind: DataTypes.STRING(40),
      ownerKind: DataTypes.STRING(10),
      ownerId: reference(true),
      state: DataTypes.STRING(12),
      input: text,
      result: { type: text, allowNull: true },
      done: {
        type: DataTypes.BIGINT,
        get(this: Model) {
          return Number(this.getDataValue('done'));
        },
      },
      total: {
        type: DataTypes.BIGINT,
        allowNull: true,
        get(this: Model) {
          const total: unknown = this.getDataValue('total');
          return total === null ? null : Number(total);
        },
      },
      cancelWanted: DataTypes.BOOLEAN,
      worker: { type: DataTypes.STRING(40), allowNull: true },
      beatAt: { type: DataTypes.DATE(3), allowNull: true },
      madeAt: DataTypes.DATE,
    },
    { ...common, tableName: 'jobs' },
  );
  ImportMapping.init(
    {
      portalId: { ...reference(), primaryKey: true },
      tableName: { type: DataTypes.STRING(105), primaryKey: true },
      mapping: text,
    },
    { ...common, tableName: 'import_mappings' },
  );
  AuditEntry.init(
    {
      id,
      portalId: reference(true),
      at: DataTypes.DATE(3),
      who: DataTypes.STRING(200),
      what: DataTypes.STRING(60),
      about: DataTypes.STRING(2000),
    },
    { ...common, tableName: 'audit_log' },
  );
  ShapeIntent.init(
    { schemaName: { type: DataTypes.STRING(64), primaryKey: true }, changeText: text, madeAt: DataTypes.DATE(3) },
    { ...common, tableName: 'shape_intents' },
  );
  Setting.init(
    { name: { type: DataTypes.STRING(400), primaryKey: true }, value: text },
    { ...common, tableName: 'settings' },
  );
  definePeopleModels(sequelize);
  defineKeptViews(sequelize);
  defineComments(sequelize);
  definePresses(sequelize);
  defineForms(sequelize);
  defineCalls(sequelize);
  defineKeys(sequelize);
  defineSeals(sequelize);
  defineProofs(sequelize);
  defineHistory(sequelize);
  defineRoles(sequelize);
  defineReviews(sequelize);
  defineTimedRuns(sequelize);
}
