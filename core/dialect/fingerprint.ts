/**
 * An expression of MariaDB that is the same for the same values of `expressions` and for no others: the bytes of each
 * are quoted, so that none runs into the next and none is NULL, and all are hashed (SHA-256), so that no collation
 * takes one for another. As bytes, since texts of two character sets can't be put together.
 */
export const fingerprint = (expressions: readonly string[]): string =>
  `SHA2(CONCAT_WS(',', ${expressions.map((each) => `QUOTE(CAST(${each} AS BINARY))`).join(', ')}), 256)`;
