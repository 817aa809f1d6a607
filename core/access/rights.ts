import type { Move, Stamp } from '../definition/definition';
import { hungRightsOf, type HungRights, type Standing } from './hung-rights';
import type { Hung } from '../definition/hung';
import type { Action } from '../definition/action';
import type { ActionLens } from './action-rights';
import { moreOpen, type Lens, type Openness } from './lens';
import type { Rows } from './rows';
import { hidden, type View } from './view';

/**
 * The one place that decides what a person may see and do. Before any record is looked at, `tableRights` says what may
 * happen on a table at all; `rightsOf` says it of one record, once it is known which conditions hold there. Reading,
 * writing, importing, explaining, comparing and what a page offers all ask here, so none of them can think otherwise.
 */

/** What was found of one record: for each lens of the view, in its place, whether its rule holds. */
export interface Outcomes {
  seen: readonly boolean[];
  edited?: readonly boolean[];
  removed?: readonly boolean[];
  /** For each lens, for each of its moves in their order, whether the move's own condition holds. */
  moves?: readonly (readonly boolean[])[];
  /** For each lens, for each of its actions in their order, whether the action's own condition holds. */
  actions?: readonly (readonly boolean[])[];
  /** The lifecycle's state as stored; null where there is none. */
  state?: string | null;
}

/** What of a record can be changed: columns that are shown to the person, and columns that may be replaced unseen. */
interface Editable {
  shown: ReadonlySet<string>;
  unseen: ReadonlySet<string>;
}

/** A move that can be made with a record now: what is put in with it, and what must hold after it, one of `after`. */
interface RecordMove {
  move: Move;
  stamps: readonly Stamp[];
  after: readonly Rows[];
}

/** One role's way of doing an action with a record. */
export interface ActionWay extends ActionLens {
  role: string;
  /** The rows that the role has the record by. */
  rows: Rows;
}

/** An action that can be done with a record now, by each of the roles that let it be done, in their order. */
interface RecordAction {
  action: Action;
  ways: readonly ActionWay[];
}

/** What a person may see and do of one record. */
export interface RecordRights {
  inView: boolean;
  /** How open one cell is. A file in it can be opened where it is shown. */
  cell(column: string): Openness;
  editable: Editable;
  /** Whether one cell may be changed, seen or unseen. */
  edits(column: string): boolean;
  deletable: boolean;
  /** In the order of the roles. */
  moves: readonly RecordMove[];
  /** In the order of the roles; those that are done by themselves are among them. */
  actions: readonly RecordAction[];
  /**
   * The actions that are offered for it: those that can be done, and those of which the person can't be told whether
   * they can, because what their condition asks is not theirs to see.
   */
  offered(isTold: (action: Action) => boolean): readonly Action[];
  /**
   * The action with the ways by which what its calls were answered is put in: its condition held when it was pressed,
   * and need not hold any more. Null where it is no right of the person's with this record.
   */
  answered(action: string): RecordAction | null;
  /** What the server puts in when the record is changed. */
  stamps: readonly Stamp[];
  /**
   * What a change of these columns takes beyond the grants: each thing that is done as a steward by it, and what must
   * hold after it on that account.
   */
  asSteward(columns: Iterable<string>): readonly { steward: string; keepIn: Rows }[];
  /** What they may do with comments or files on it; `now` is what makes it somebody's at the moment. */
  hung(what: Hung, now: Standing): HungRights;
}

/** A role by which a record may be made: what it may fill, what is put in, and what must hold of it then. */
export interface Maker {
  role: string;
  /** By what the role makes it as a steward; by its grant when absent. */
  steward?: string;
  fills: ReadonlySet<string>;
  keepIn: Rows;
  stamps: readonly Stamp[];
}

/** What a person may see and do on a table, whichever record it be. */
export interface TableRights {
  /** Whether any record could be seen. */
  sees: boolean;
  /** Columns that a new record may be given through some role; null when none may be made. */
  fills: ReadonlySet<string> | null;
  /** Columns that may be changed in some record. */
  changes: ReadonlySet<string>;
  removes: boolean;
  exports: boolean;
  /** Whether comments, or files, on some record could be read. */
  hangs(what: Hung): boolean;
  /** Whether what changed in some record could be read. */
  history: boolean;
  /** The column of the states that records may be moved between. */
  state: string | null;
  /** The column of the states, where a move by itself or one of an action goes by it. */
  stateRead: string | null;
  /** Whether a value may be brought into the column, of a new record or a known one: by an import, as a file. */
  brings(column: string): boolean;
  /** Whether what a relation leads to may be looked for: its column is shown, or can be filled or changed. */
  chooses(column: string): boolean;
  /** Whether the server puts a value into the column by itself, at least where none is sent. */
  stamps(column: string): boolean;
  /** What can be done with some record by a press: not what is done by itself. */
  actions: readonly Action[];
  /** The roles by which records are made, in their order. */
  makers: readonly Maker[];
  /** The rows that may be changed, through one role or another, and what must hold after it of one of them. */
  edit: { rows: readonly Rows[]; keepIn: readonly Rows[] };
  /** The rows that may be deleted, through one role or another. */
  remove: readonly Rows[];
}

const ofTables = new WeakMap<View, TableRights>();

/** Decides what a view lets its person do on its table. */
export function tableRights(view: View): TableRights {
  let rights = ofTables.get(view);
  if (!rights) {
    rights = decideOnTable(view);
    ofTables.set(view, rights);
  }
  return rights;
}

function decideOnTable({ lenses }: View): TableRights {
  const makers = lenses.flatMap(({ role, steward, create, stamps }): Maker[] =>
    create ? [{ role, steward, fills: create.columns, keepIn: create.keepIn, stamps }] : [],
  );
  const edits = lenses.flatMap((lens) => (lens.edit ? [lens.edit] : []));
  const fills = makers.length === 0 ? null : new Set(makers.flatMap((maker) => [...maker.fills]));
  const changes = new Set(edits.flatMap((edit) => [...edit.columns]));
  return {
    sees: lenses.some((lens) => lens.rows !== 'no row'),
    fills,
    changes,
    removes: lenses.some((lens) => lens.remove !== null),
    exports: lenses.some((lens) => lens.export !== null && lens.rows !== 'no row'),
    hangs: (what) => lenses.some((lens) => lens[what] !== null),
    history: lenses.some((lens) => lens.history),
    state: lenses.find((lens) => lens.moves)?.moves?.column ?? null,
    stateRead: stateOf(lenses),
    brings: (column) => (fills?.has(column) ?? false) || changes.has(column),
    chooses: (column) =>
      lenses.some((lens) => lens.columns.get(column)?.level === 'shown') ||
      (fills?.has(column) ?? false) ||
      changes.has(column),
    stamps: (column) => lenses.some((lens) => lens.stamps.some((stamp) => stamp.column === column)),
    actions: [...new Set(lenses.flatMap((lens) => lens.actions.map(({ action }) => action)))].filter(({ on }) => !on),
    makers,
    edit: { rows: edits.map((edit) => edit.rows), keepIn: edits.map((edit) => edit.keepIn) },
    remove: lenses.map((lens) => lens.remove).filter((rows) => rows !== null),
  };
}

const stateOf = (lenses: readonly Lens[]): string | null =>
  lenses.flatMap(({ moves, actions }) => [
    ...(moves ? [moves.column] : []),
    ...actions.flatMap(({ move }) => (move ? [move.column] : [])),
  ])[0] ?? null;

/**
 * What follows from which lenses have a record and through which it may be edited: of these there are few combinations,
 * so it is worked out once for a view.
 */
interface Cells {
  inView: boolean;
  cells: ReadonlyMap<string, Openness>;
  editable: Editable;
}

/**
 * The way by which somebody takes back what they did with an action by one of their roles; null where that is no right
 * of theirs any more.
 */
export function takesBack({ lenses }: View, action: string, role: string): ActionWay | null {
  for (const lens of lenses)
    for (const own of lens.actions)
      if (lens.role === role && own.action.id === action) return { ...own, role, rows: lens.rows };
  return null;
}

const ofCells = new WeakMap<View, Map<string | number, Cells>>();
const none: readonly boolean[] = [];

/** Decides what the person of a view may see and do of a record of which `outcomes` was found. */
export function rightsOf(view: View, outcomes: Outcomes): RecordRights {
  return new OfRecord(view, outcomes, cellsOf(view, outcomes.seen, outcomes.edited ?? none));
}

const isFromHere = ({ move }: ActionLens, state: string | null): boolean =>
  move === null || (state !== null && move.move.from.includes(state));

class OfRecord implements RecordRights {
  readonly inView: boolean;
  readonly editable: Editable;
  constructor(
    private readonly view: View,
    private readonly found: Outcomes,
    private readonly known: Cells,
  ) {
    this.inView = known.inView;
    this.editable = known.editable;
  }

  cell(column: string): Openness {
    return this.known.cells.get(column) ?? hidden;
  }

  edits(column: string): boolean {
    return this.editable.shown.has(column) || this.editable.unseen.has(column);
  }

  get deletable(): boolean {
    return this.inView && (this.found.removed ?? none).some(Boolean);
  }

  get stamps(): readonly Stamp[] {
    return this.view.lenses.flatMap((lens, i) => (this.found.edited?.[i] ? lens.stamps : []));
  }

  asSteward(columns: Iterable<string>): readonly { steward: string; keepIn: Rows }[] {
    const edited = this.view.lenses.filter((_, i) => this.found.edited?.[i]);
    const filled = (lens: Lens, column: string) => lens.edit?.columns.has(column) ?? false;
    const used = new Map<string, Rows>();
    for (const column of columns) {
      const [first] = edited.filter((lens) => filled(lens, column));
      // The grants come before what is done as a steward.
      if (!first || edited.some((lens) => lens.steward === undefined && filled(lens, column))) continue;
      used.set(first.steward!, first.edit!.keepIn);
    }
    return [...used].map(([steward, keepIn]) => ({ steward, keepIn }));
  }

  hung(what: Hung, now: Standing): HungRights {
    return hungRightsOf(what, this.view, this.found.seen, now);
  }

  get actions(): readonly RecordAction[] {
    const { seen, actions = [], state = null } = this.found;
    return waysOf(
      this.view,
      ({ actions: own }, i, place) => (seen[i] && actions[i]?.[place] && isFromHere(own[place]!, state)) ?? false,
    );
  }

  offered(isTold: (action: Action) => boolean): readonly Action[] {
    const { seen } = this.found;
    const can = new Set(this.actions.map(({ action }) => action));
    return waysOf(this.view, (_, i) => seen[i] ?? false)
      .map(({ action }) => action)
      .filter((action) => action.on === undefined && (can.has(action) || !isTold(action)));
  }

  answered(id: string): RecordAction | null {
    return waysOf(this.view, (_, i) => this.found.seen[i] ?? false).find(({ action }) => action.id === id) ?? null;
  }

  get moves(): readonly RecordMove[] {
    const { seen, edited = none, moves = [], state = null } = this.found;
    if (!this.inView || state === null) return [];
    const made = new Map<string, { move: Move; lenses: Lens[] }>();
    this.view.lenses.forEach((lens, i) => {
      // A role makes moves with the records that it shows or lets be edited.
      if (!seen[i] && !edited[i]) return;
      lens.moves?.moves.forEach((move, place) => {
        if (!move.from.includes(state) || !moves[i]?.[place]) return;
        const known = made.get(move.id) ?? { move, lenses: [] };
        known.lenses.push(lens);
        made.set(move.id, known);
      });
    });
    return [...made.values()].map(({ move, lenses }) => ({
      move,
      stamps: lenses.flatMap((lens) => lens.stamps),
      after: lenses.map((lens) => lens.moves!.after),
    }));
  }
}

/** By the order in which roles have them, each action once with all of its ways. */
function waysOf(view: View, has: (lens: Lens, i: number, place: number) => boolean): RecordAction[] {
  const found = new Map<string, { action: Action; ways: ActionWay[] }>();
  view.lenses.forEach((lens, i) =>
    lens.actions.forEach((own, place) => {
      if (!has(lens, i, place)) return;
      const known = found.get(own.action.id) ?? { action: own.action, ways: [] };
      known.ways.push({ ...own, role: lens.role, rows: lens.rows });
      found.set(own.action.id, known);
    }),
  );
  return [...found.values()];
}

function cellsOf(view: View, seen: readonly boolean[], edited: readonly boolean[]): Cells {
  let ofView = ofCells.get(view);
  if (!ofView) {
    ofView = new Map();
    ofCells.set(view, ofView);
  }
  const key = view.lenses.length <= mostBits ? numberOf(seen, edited) : textOf(view.lenses.length, seen, edited);
  let known = ofView.get(key);
  if (!known) {
    known = {
      inView: seen.some(Boolean),
      cells: new Map(view.table.columns.map((column) => [column.name, cellOf(view, column.name, seen)])),
      editable: editableColumns(view, seen, edited),
    };
    ofView.set(key, known);
  }
  return known;
}

/** Two bits for each lens, as far as a small number has them. */
const mostBits = 15;

function numberOf(seen: readonly boolean[], edited: readonly boolean[]): number {
  let key = 0;
  for (let i = 0; i < seen.length; i++) key = (key << 2) | (seen[i] ? (edited[i] ? 3 : 2) : edited[i] ? 1 : 0);
  return key;
}

/** There may be more roles than a number has bits. */
function textOf(lenses: number, seen: readonly boolean[], edited: readonly boolean[]): string {
  let key = '';
  for (let i = 0; i < lenses; i++) key += seen[i] ? (edited[i] ? '3' : '2') : edited[i] ? '1' : '0';
  return key;
}

/** How open a cell is: as the most open lens that has the row. `holds` says for each lens whether it has it. */
export function cellOf(view: View, column: string, holds: readonly boolean[]): Openness {
  let best = hidden;
  view.lenses.forEach((lens, i) => {
    const openness = holds[i] ? (lens.columns.get(column) ?? hidden) : hidden;
    if (moreOpen(openness, best) > 0) best = openness;
  });
  return best;
}

/**
 * Columns of a record that the person may change. A cell that is masked or hidden for them can only be replaced where a
 * lens lets it be unseen.
 */
function editableColumns(view: View, seen: readonly boolean[], edited: readonly boolean[]): Editable {
  const [shown, unseen] = [new Set<string>(), new Set<string>()];
  if (!seen.some(Boolean)) return { shown, unseen };
  view.lenses.forEach((lens, i) => {
    if (!edited[i] || !lens.edit) return;
    for (const column of lens.edit.columns) {
      if (cellOf(view, column, seen).level === 'shown') shown.add(column);
      else if (lens.edit.unseen.has(column)) unseen.add(column);
    }
  });
  return { shown, unseen };
}

/** What one role alone lets be filled when a record is changed so, and what must hold of it then. */
export interface RoleChange {
  fills(column: string): boolean;
  keepIn: Rows;
}

/** The part of one role in a change of these columns of a record; null where it has none. */
export function roleChange(lens: Lens, columns: readonly string[], { moves }: RecordRights): RoleChange | null {
  const move = lens.moves !== null && columns.includes(lens.moves.column) ? lens.moves : null;
  const keepIn = move ? move.after : lens.edit?.keepIn;
  if (!keepIn) return null;
  return {
    fills: (column) => (lens.edit?.columns.has(column) ?? false) || (move?.column === column && moves.length > 0),
    keepIn,
  };
}
