import type { Catalogue, Table } from '../table/catalogue';
import type { Operand, Condition } from './tree';

/** Something wrong with a condition, said of one operand or of the whole. */
export interface ConditionProblem {
  reason: string;
  /** The operand, or the EXISTS, that it is said of. */
  operand?: Operand | Condition;
}

/** What a condition may speak of: the table it is about, and whether the member and the clock may appear in it. */
export interface ConditionScope {
  catalogue: Catalogue;
  table: Table;
  /** False in filters that people make in a list: those compare with constants, and with `ownFacts`. */
  member: boolean;
  /** Where `member` is false: what of the member may be compared with all the same, by the facts' parts. */
  ownFacts?: readonly string[][];
  /** Where the member's roster tables are described, when `catalogue` holds only what a person may ask about. */
  facts?: Catalogue;
  /** True where there are no records: a condition on the member alone, as of an audience. */
  memberAlone?: boolean;
  /** True for a ceiling's own condition, which is written at the source and may ask what it closes. */
  atSource?: boolean;
  /** True where it may be asked what the member lacks, which does not fail closed: in rules of our own making. */
  lacks?: boolean;
  /** The table of the page's record, in the filters of a record page's sections. */
  record?: Table;
}
