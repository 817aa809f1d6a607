import type { CommentTold } from '../client/comments';

/** Who hung something on a record, to whoever reads: by name where it is seen, else by what they were then. */
export const writer = ({ mine, name, role }: Pick<CommentTold, 'mine' | 'name' | 'role'>): string =>
  mine ? 'You' : (name ?? role ?? 'Somebody');
