import { Problem } from '../../core/refusals/problem';

/** What the database itself says against a change of shape: about names and types, never about records. */
export class ShapeRefused extends Problem {
  constructor(said: string, cause: unknown) {
    super(422, 'shape', `The database can't do this: ${said}`, {}, {}, { cause });
  }
}
