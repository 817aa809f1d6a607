/** A failure that the person can mend: its message says how. Shown without a stack. */
export class Advice extends Error {
  override readonly name = 'Advice';
}
