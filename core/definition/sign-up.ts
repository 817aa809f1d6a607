import type { Operand } from '../condition/tree';

/** A link by which somebody new can ask to come in: what they fill in becomes a row of a roster. */
export interface SignUp {
  id: string;
  /** What it is called, to whoever opens the link. */
  name: string;
  roster: string;
  /** Columns that are asked, beside the e-mail. */
  asks: string[];
  /** What the link says of the row, whatever anybody fills in. */
  fills: { column: string; value: Exclude<Operand, { kind: 'column' | 'member' | 'record' | 'shifted' }> }[];
  /** The last day on which it works, in the portal's zone. */
  ends?: string;
  /** So many can come in by it. */
  uses?: number;
  /** Only addresses of these domains. */
  domains?: string[];
  /** Members with this role agree to each, or not; nobody needs to when absent. */
  approver?: string;
}
