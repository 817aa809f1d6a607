import type { Sql } from '../../core/sql/sql';
import type { Catalogue, Column } from '../../core/table/catalogue';
import type { Asker } from './asker';
import type { RawRow, Source, Transaction, TransactionKind } from './source';

/** A source whose statements can each be asked for by somebody who may go. */
export interface StoppableSource extends Source {
  rows(statement: Sql, asker?: Asker): Promise<RawRow[]>;
  write(statement: Sql, asker?: Asker): Promise<number>;
  measure?(statement: Sql, asker?: Asker): Promise<{ rows: RawRow[]; reads: number }>;
  transaction<T>(work: (runner: Transaction) => Promise<T>, how?: TransactionKind, asker?: Asker): Promise<T>;
}

/** A source as somebody asks it. What is kept for others as well, like its catalogue, is read to its end. */
export class AskedSource implements Source {
  readonly measure?: Source['measure'];

  constructor(
    private readonly source: StoppableSource,
    private readonly asker: Asker,
  ) {
    if (source.measure) this.measure = (statement) => source.measure!(statement, asker);
  }

  rows(statement: Sql): Promise<RawRow[]> {
    return this.source.rows(statement, this.asker);
  }

  write(statement: Sql): Promise<number> {
    return this.source.write(statement, this.asker);
  }

  transaction<T>(work: (runner: Transaction) => Promise<T>, how?: TransactionKind): Promise<T> {
    return this.source.transaction(work, how, this.asker);
  }

  catalogue(fresh?: boolean): Promise<Catalogue> {
    return this.source.catalogue(fresh);
  }

  forget(): void {
    this.source.forget();
  }

  describe(select: Sql): Promise<Column[]> {
    return this.source.describe(select);
  }

  askedBy(asker: Asker): Source {
    return new AskedSource(this.source, asker);
  }

  close(): Promise<void> {
    return this.source.close();
  }
}
