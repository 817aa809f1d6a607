/** The connection was lost after a transaction's end was sent and before the database said that it was kept. */
export class OutcomeUnknown extends Error {
  constructor(cause: unknown) {
    super(
      'The connection to the database was lost in the very moment of saving, so it is not known whether it was ' +
        'kept. Look before you do it again.',
      { cause },
    );
  }
}
