import { Problem } from '../../core/refusals/problem';

/**
 * A table or column that a statement names is not in the database any more, or not yet known: it was changed since its
 * catalogue was read.
 */
export class CatalogueChanged extends Problem {
  constructor(cause: unknown) {
    super(
      409,
      'catalogue-changed',
      'A table or column was changed in the database in the meantime. Nothing was changed. Try once more.',
      {},
      {},
      { cause },
    );
  }
}
