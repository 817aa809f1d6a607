/** What two operands are compared as; the database and memory both convert to this before they compare. */
export type ComparedAs = 'text' | 'choice' | 'whole' | 'decimal' | 'double' | 'truth' | 'date' | 'moment' | 'uuid';
