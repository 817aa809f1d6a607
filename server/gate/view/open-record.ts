import type { Move } from '../../../core/definition/definition';
import type { ViewRecord } from './view-record';

/** One record, and what the person may do with it. */
export interface OpenRecord extends ViewRecord {
  /** Columns that are shown and may be changed. */
  editable: string[];
  /** Columns that may be written over although they are masked or hidden. */
  replaceable: string[];
  deletable: boolean;
  /** The moves that can be made from the record's state now. */
  moves: Pick<Move, 'id' | 'name' | 'to' | 'needs'>[];
  /** What is offered to be done with it by a press, by the actions' ids. */
  actions: string[];
}
