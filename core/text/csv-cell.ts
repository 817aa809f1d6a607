/** What makes a cell of CSV more than its text: lines of it are put together here and by MariaDB. */

/**
 * The signs at the start of a cell for which a spreadsheet would take it for a formula (OWASP, "CSV Injection"), also
 * as some write them full-width.
 */
export const formulaSigns = ['=', '+', '-', '@', '\t', '\r', '\n', '＝', '＋', '－', '＠'] as const;

/**
 * What begins so and is a number through and through, which is no formula; to the text's very end in JavaScript as in
 * MariaDB's patterns.
 */
export const plainNumber = '^[+-]?[0-9]+([.][0-9]+)?(?!a|[^a])';

/** What a cell holds that stands in quotes (RFC 4180). */
export const needsQuotes = '[",\r\n]';
