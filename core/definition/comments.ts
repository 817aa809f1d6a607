/** What may be done with comments on a record, beyond reading them. */
export const commentActs = ['write', 'delete own', 'delete any'] as const;

export type CommentAct = (typeof commentActs)[number];

/** To whom a comment speaks: `forAll` to everyone who reads comments there, `amongUs` to those of an inner circle. */
export const circles = ['forAll', 'amongUs'] as const;

export type Circle = (typeof circles)[number];

/** What a role may do with comments on the rows that it sees; a circle that is absent is not read. */
export type CommentsGrant = Partial<Record<Circle, CommentAct[]>> & {
  /** Also what was written while the record was not yet theirs. */
  earlier?: true;
};
