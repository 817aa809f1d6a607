import { connectionProblemOf } from '../sources/connection-problem';
import { SourceGone } from '../sources/gone';

/** Why a source can't be read, in a sentence for builders that says nothing of where it is. */
export function reasonOf(error: unknown): string {
  if (error instanceof SourceGone) return error.message;
  const problem = connectionProblemOf(error, { host: 'its host', port: 0, user: 'the user', database: 'it' });
  return problem?.message.replace(' at its host, port 0. Check both, and', '. Check') ?? "It can't be read.";
}
