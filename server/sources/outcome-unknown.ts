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

/**
 * A transaction broke off before its end was asked for, so that surely nothing of it was kept. Its cause says why.
 */
export class NotKept extends Error {
  constructor(cause: unknown) {
    super('Nothing of it was kept.', { cause });
  }
}

/** What is done once something is kept: where that fails, nobody may be told that nothing was changed. */
export const onceKept = <T>(following: Promise<T>): Promise<T> =>
  following.catch((error: unknown) => {
    throw new OutcomeUnknown(error);
  });
