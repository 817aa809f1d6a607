/** What a database itself refuses of a write, whatever its kind. Never carries the other record's values. */
export class DatabaseRefusal extends Error {
  constructor(
    readonly kind: 'taken' | 'no such record' | 'still used' | 'does not fit' | 'breaks a rule',
    /** The column that the database names; null when it names none. */
    readonly column: string | null,
    cause: unknown,
  ) {
    super(`the database refuses: ${kind}`, { cause });
  }
}
