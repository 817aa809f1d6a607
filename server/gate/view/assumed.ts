import { fingerprint } from '../../../core/dialect/fingerprint';
import { bound, filled, raw, sql, type Sql } from '../../../core/sql/sql';

/** What was taken for true of whoever asks could not be held against the database: it is to be asked itself. */
class NotConfirmed extends Error {
  constructor() {
    super('what was assumed of whoever asks was not confirmed');
  }
}

/** A question of our own code to the product's own tables, about whoever comes. */
export interface OwnLine {
  /** What is held against what it was. */
  compared: readonly string[];
  from: string;
  where: string;
  /** For the `?` of `where`; there are none elsewhere. */
  values: readonly string[];
}

/**
 * What is taken for true of whoever asks: that our own tables say of them what they last said. The statement that reads
 * their records bears it out, in place of one that asks before: it gives a row only where that holds.
 */
export class Assumed {
  private state: 'open' | 'confirmed' | 'failed' = 'open';

  private constructor(private readonly condition: Sql) {}

  /** That `asked`, which gives one fingerprint at most, gives this one. */
  static of(print: string, asked: Sql): Assumed {
    return new Assumed(sql`${bound(print)} = (${asked})`);
  }

  /** That `line` gives what it gave when it had this fingerprint. */
  static ofLine(print: string, { compared, from, where, values }: OwnLine): Assumed {
    const line = raw(`SELECT ${fingerprint(compared)} FROM ${from} WHERE ${where}`);
    return Assumed.of(print, withValues(line, values));
  }

  /** Whether a statement has borne it out. */
  get holds(): boolean {
    return this.state === 'confirmed';
  }

  /** Whether it was found that no statement could. */
  get failed(): boolean {
    return this.state === 'failed';
  }

  /** Stands in the statement that is to bear it out; null where one has. */
  get proof(): Sql | null {
    return this.holds ? null : this.condition;
  }

  /** Told how many rows a statement gave in which the proof stood. Throws NotConfirmed where there are none. */
  settle(rows: number): void {
    if (rows === 0) this.refuseOpen();
    else this.state = 'confirmed';
  }

  /** What never carries the proof must not be read before another statement has. Throws NotConfirmed. */
  refuseOpen(): void {
    if (this.holds) return;
    this.state = 'failed';
    throw new NotConfirmed();
  }

  /** As `refuseOpen`, where the next time it may carry it. */
  putOff(): void {
    if (!this.holds) throw new NotConfirmed();
  }
}

/** The fingerprint of what pieces of SQL give. */
export const fingerprintOf = (pieces: readonly Sql[]): Sql =>
  filled(
    raw(fingerprint(pieces.map(({ text }) => text))),
    pieces.flatMap(({ params }) => params),
  );

/** A statement with the values of the `?` at its end. */
export function withValues(statement: Sql, values: readonly string[]): Sql {
  return filled(statement, [...statement.params, ...values]);
}
