/** What is asked of the gate: pages of lists, filtered ones, single records, files; writes are tried beside it. */
export const asking = ['list', 'filter', 'record', 'file'] as const;
export type ProofKind = (typeof asking)[number] | 'write';

/** Where the gate answered other than core says. No value stands in it. */
export interface Difference {
  kind: ProofKind;
  person: number | null;
  table: string;
  /** The record; null where it is about the whole answer. */
  id: string | null;
  path: string | null;
  says: string;
}

export interface Proof {
  seed: number;
  people: number;
  questions: Record<ProofKind, number>;
  cells: number;
  /** Questions that memory can't judge: they lead to tables that are too large, or compare in a way it doesn't know. */
  unjudged: number;
  /** Tables that were not read, as they are too large. */
  tooLarge: string[];
  differences: Difference[];
  /** How many there were; not all of them are told. */
  differed: number;
}

const mostTold = 50;

/** Notes a difference; of many some are told. */
export function noteDifference(proof: Proof, { kind, person, table, id, path, says }: Difference): void {
  proof.differed++;
  if (proof.differences.length < mostTold) proof.differences.push({ kind, person, table, id, path, says });
}
