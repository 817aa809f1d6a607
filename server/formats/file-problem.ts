import { Problem } from '../../core/refusals/problem';

/** A file that can't be read, said to the person who brought it. */
export class FileProblem extends Problem {
  constructor(sentence: string) {
    super(422, 'file', sentence);
  }
}
