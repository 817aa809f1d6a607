import type { Condition } from '../condition/tree';

/** What may be done for those who are looked after, beside seeing them. */
export const stewardActs = ['suspend', 'invite', 'end sessions', 'send password links'] as const;

export type StewardAct = (typeof stewardActs)[number];

/** Those of a roster who have these roles and of whose row the condition is true; its facts are the steward's. */
interface Slice {
  roster: string;
  where?: Condition;
}

/** Whoever has the role looks after people: a slice of the members, and never themselves. */
export interface LooksAfter extends Slice {
  id: string;
  role: string;
  does: 'look after people';
  /** Whom: members whose roles are all among these. No others can be given through a change of their row. */
  roles: string[];
  /** What is seen of their row beside name and e-mail. */
  sees: string[];
  /** What a new row is filled with; nobody is added when absent. */
  adds?: string[];
  changes?: string[];
  may: StewardAct[];
}

/** Whoever has the role brings files into a table, as far as they may add and change there, and takes it out. */
export interface KeepsTable {
  id: string;
  role: string;
  does: 'keep a table';
  table: string;
}

/** Whoever has the role gives records of one person to another of the slice. */
export interface HandsOver extends Slice {
  id: string;
  role: string;
  does: 'hand over';
  /** Of which tables, and the column that leads to whose a record is. */
  tables: { table: string; column: string; where?: Condition }[];
}

/** A slice of the administration that a role has, as a sentence. */
export type Steward = LooksAfter | KeepsTable | HandsOver;
