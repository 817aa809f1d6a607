/** The meanings that are finer than a type of the database. */
export const columnKinds = ['e-mail', 'phone', 'web address', 'picture', 'money', 'file'] as const;

export type ColumnKind = (typeof columnKinds)[number];
