/**
 * An expression of MariaDB that is the same for the same values of `expressions` and for no others: each is quoted, so
 * that none runs into the next, and all are hashed (SHA-256) as they stand, so that no collation takes one for another.
 */
export const fingerprint = (expressions: readonly string[]): string =>
  `SHA2(CONCAT_WS(',', ${expressions.map((each) => `QUOTE(${each})`).join(', ')}), 256)`;
