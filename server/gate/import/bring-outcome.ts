import { Problem } from '../../../core/refusals/problem';
import { createHash } from 'node:crypto';
import type { ImportColumn } from '../../../core/table/import-plan';
import type { Value } from '../../../core/table/value';

/** A record that is not taken: each cell that is in the way, and why. */
export interface RefusedRow {
  line: number;
  cells: { header: string; value: string; reason: string }[];
}

export interface BringOutcome {
  added: number;
  changed: number;
  /** Known records that are as the file has them. */
  same: number;
  refused: number;
  /** The first of each, by the line of the file. */
  samples: {
    added: { line: number; values: Record<string, Value> }[];
    changed: { line: number; id: string; known: Value; before: Record<string, Value>; after: Record<string, Value> }[];
    refused: RefusedRow[];
  };
  /** The same for two outcomes exactly when they would do the same to the same records. */
  digest: string;
}

const samplesKept = 100;

/** What is to be done with one record of the file. `late` are the reasons that only the writing brought up. */
export interface Decided {
  at: number;
  line: number;
  what:
    | { kind: 'add'; values: Map<string, Value> }
    | { kind: 'change'; key: Value[]; id: string; known: Value; before: Map<string, Value>; after: Map<string, Value> }
    | { kind: 'same' }
    | { kind: 'refuse' };
  reasons: { column: string; reason: string }[];
  late: boolean;
}

/** Counts what is done with the records of a file, and keeps the first of each. */
export class Tally {
  private readonly hash = createHash('sha256');
  private readonly counts = { added: 0, changed: 0, same: 0, refused: 0 };
  private readonly samples: BringOutcome['samples'] = { added: [], changed: [], refused: [] };

  constructor(private readonly onRefused?: (row: RefusedRow) => void) {}

  take(decided: Decided, rows: string[][], columns: ImportColumn[]): void {
    const { what, line } = decided;
    const { counts, samples } = this;
    // What the database alone refuses is not known before, so it doesn't tell two outcomes apart.
    const kind = decided.reasons.length > 0 && !decided.late ? 'refuse' : what.kind;
    this.hash.update(
      `${line} ${kind}${what.kind === 'change' ? ` ${what.id} ${JSON.stringify([...what.before])}` : ''}\n`,
    );
    if (decided.reasons.length > 0) {
      counts.refused++;
      const row: RefusedRow = {
        line,
        cells: decided.reasons.map(({ column, reason }) => {
          const place = columns.findIndex((each) => each.column === column);
          return {
            header: columns[place]?.header ?? column,
            value: (rows[decided.at]![place] ?? '').slice(0, 200),
            reason,
          };
        }),
      };
      this.onRefused?.(row);
      if (samples.refused.length < samplesKept) samples.refused.push(row);
    } else if (what.kind === 'add') {
      counts.added++;
      if (samples.added.length < samplesKept) samples.added.push({ line, values: Object.fromEntries(what.values) });
    } else if (what.kind === 'change') {
      counts.changed++;
      if (samples.changed.length < samplesKept)
        samples.changed.push({
          line,
          id: what.id,
          known: what.known,
          before: Object.fromEntries(what.before),
          after: Object.fromEntries(what.after),
        });
    } else {
      counts.same++;
    }
  }

  outcome(): BringOutcome {
    return { ...this.counts, samples: this.samples, digest: this.hash.digest('hex') };
  }
}

/** Records were refused, so nothing was written. */
export class BringRefused extends Problem {
  constructor(readonly outcome: BringOutcome) {
    super(
      422,
      'import-refused',
      `${outcome.refused.toLocaleString('en')} ${outcome.refused === 1 ? 'record was' : 'records were'} ` +
        'refused, so nothing was written.',
      { outcome },
    );
  }
}

/** The records are not what they were when the person looked at what would change. */
export class BringChanged extends Problem {
  constructor(readonly outcome: BringOutcome) {
    super(409, 'import-changed', 'The records have changed since you looked, so nothing was written. Look again.', {
      outcome,
    });
  }
}
