/** What members hang on a record. */
export const hung = ['comments', 'files'] as const;

export type Hung = (typeof hung)[number];

/** What stands on a record's sheet beside its columns: what is hung on it, and what changed in it. */
export const besideSheet = [...hung, 'history'] as const;

export type BesideSheet = (typeof besideSheet)[number];

/** What may be done with comments or files on a record, beyond reading them. */
export const commentActs = ['write', 'delete own', 'delete any'] as const;

export type CommentAct = (typeof commentActs)[number];

/** For whom a comment or a file is: `forAll` for everyone who reads such there, `amongUs` for an inner circle. */
export const circles = ['forAll', 'amongUs'] as const;

export type Circle = (typeof circles)[number];

/** What a role may do with comments, or with files, on the rows that it sees; a circle that is absent is not read. */
export type HungGrant = Partial<Record<Circle, CommentAct[]>> & {
  /** Also what was hung on it while the record was not yet theirs. */
  earlier?: true;
};
