import type { Condition } from '../core/condition/tree';
import type { Action, ActionStep } from '../core/definition/action';
import type { Lifecycle, PortalDefinition, RowFilter } from '../core/definition/definition';
import { freeId } from '../core/definition/free-id';
import { printPath } from '../core/definition/path';
import { findColumn, isClosed, type Catalogue, type Column, type Table } from '../core/table/catalogue';
import { layDown, proposals } from './lay-down';

/** Records that somebody submits and somebody else approves, or sends back with the reason. */
export interface Approval {
  table: string;
  /** The column of the states, and three of them. */
  column: string;
  begins: string;
  submitted: string;
  approved: string;
  submitters: string[];
  approvers: string[];
  /** Roles that see approved records alone. */
  readers: string[];
  /** The column that says why something was sent back; null where nobody is asked. */
  reason: string | null;
  /** Where the address of whoever is to hear of it stands; null where nobody does. */
  writesTo: string[] | null;
}

const isState = (table: Table, { name, type, choices = [] }: Column): boolean =>
  type === 'one choice' && choices.length >= 3 && !isClosed(table, name);

/** The columns of a table that may hold the states, the likeliest first: that of its lifecycle, where it has one. */
export function stateColumns(draft: PortalDefinition, table: Table): Column[] {
  const lifecycle = draft.lifecycles?.find((each) => each.table === table.name);
  const found = table.columns.filter(
    (column) => isState(table, column) && (lifecycle === undefined || lifecycle.column === column.name),
  );
  const isCalledSo = ({ name }: Column) => /state|status|stage/i.test(name);
  return [...found.filter(isCalledSo), ...found.filter((column) => !isCalledSo(column))];
}

/** Columns that may say why something was sent back. */
export const reasonColumns = (table: Table): Column[] =>
  table.columns.filter(
    ({ name, type, automatic }) =>
      (type === 'text' || type === 'long text') && !automatic && !table.key.includes(name) && !isClosed(table, name),
  );

/** What is most likely meant, by what states and columns are called; all of it can be chosen otherwise. */
export function guessedApproval(draft: PortalDefinition, table: Table, { name, choices = [] }: Column): Approval {
  const called = (words: RegExp, not: string[], otherwise: number) =>
    choices.find((choice) => words.test(choice) && !not.includes(choice)) ??
    choices.filter((choice) => !not.includes(choice)).at(otherwise)!;
  const start = draft.lifecycles?.find((each) => each.table === table.name)?.start;
  const begins = start ?? called(/draft|new|open|asked|begun/i, [], 0);
  const submitted = called(/submit|wait|pending|review|sent|asked/i, [begins], 0);
  const approved = called(/approv|accept|publish|agreed|done|final/i, [begins, submitted], -1);
  const members = draft.roles.filter(({ for: whom = 'members' }) => whom === 'members').map(({ id }) => id);
  const grants = draft.access[table.name] ?? {};
  const submitters = members.filter((role) => grants[role]?.create || grants[role]?.edit);
  const seers = members.filter((role) => grants[role]?.see);
  return {
    table: table.name,
    column: name,
    begins,
    submitted,
    approved,
    submitters: submitters.slice(0, 1),
    approvers: seers.filter((role) => role !== submitters[0]).slice(0, 1),
    readers: draft.roles.filter(({ id, for: whom }) => whom === 'visitors' && grants[id]?.see).map(({ id }) => id),
    reason: reasonColumns(table).find((column) => /reason|remark|note|comment/i.test(column.name))?.name ?? null,
    writesTo: null,
  };
}

/** Why an approval can't be laid down as it was chosen; null where it can. */
export function approvalProblem({ begins, submitted, approved, submitters, approvers }: Approval): string | null {
  if (new Set([begins, submitted, approved]).size < 3) return 'The three states must be three.';
  if (submitters.length === 0) return 'Say who submits.';
  if (approvers.length === 0) return 'Say who approves.';
  return null;
}

/**
 * Lays an approval down: moves that actions alone make, the actions, a page with what waits for those who approve, and
 * readers whose rows are the approved ones. Gives the page's id; null where there is nothing to put on one.
 */
export function layApproval(draft: PortalDefinition, catalogue: Catalogue, table: Table, of: Approval): string | null {
  const moves = movesOf(draft, of);
  const made = actionsOf(draft, of, moves);
  draft.actions = [...(draft.actions ?? []), ...made];
  for (const role of of.readers) {
    const see = draft.access[of.table]?.[role]?.see;
    if (see) see.where = both(see.where, is(of.column, of.approved));
  }
  // What waits or is approved is no longer changed by who submitted it.
  for (const role of of.submitters) {
    const edit = draft.access[of.table]?.[role]?.edit;
    if (edit)
      edit.where = both(
        edit.where === 'as seen' ? seenBy(draft, of.table, role) : edit.where,
        is(of.column, of.begins),
      );
  }
  const [submit, ...judging] = made.map(({ id }) => id) as [string, ...string[]];
  for (const page of draft.pages)
    for (const section of page.sections)
      if (
        (section.kind === 'list' || section.kind === 'cards') &&
        section.table === of.table &&
        (page.audience.roles === 'everyone' || page.audience.roles.some((role) => of.submitters.includes(role)))
      )
        section.acts = [...(section.acts ?? []), submit];
  return waitingPage(draft, catalogue, table, of, judging);
}

/** The moves, each as it is there or made now; nobody makes one that is made now but by an action. */
function movesOf(draft: PortalDefinition, { table, column, begins, submitted, approved }: Approval): string[] {
  let lifecycle = draft.lifecycles?.find((each) => each.table === table);
  if (!lifecycle) {
    lifecycle = { table, column, start: begins, moves: [] } satisfies Lifecycle;
    draft.lifecycles = [...(draft.lifecycles ?? []), lifecycle];
  }
  const { moves } = lifecycle;
  return (
    [
      ['Submit', begins, submitted],
      ['Approve', submitted, approved],
      ['Send back', submitted, begins],
    ] as const
  ).map(([name, from, to]) => {
    const known = moves.find((move) => move.to === to && move.from.length === 1 && move.from[0] === from);
    if (known) return known.id;
    const id = freeId(name, moves);
    moves.push({ id, name, from: [from], to, roles: [], needs: [] });
    return id;
  });
}

function actionsOf(draft: PortalDefinition, of: Approval, [submit, approve, back]: string[]): Action[] {
  const { table, submitters, approvers, reason, writesTo } = of;
  const word = draft.tables[table]?.label ?? table.replaceAll('_', ' ');
  const mail = (subject: string, text: string): ActionStep[] =>
    writesTo === null ? [] : [{ kind: 'mail', mail: { to: 'column', path: writesTo }, subject, text }];
  const known = [...(draft.actions ?? [])];
  const action = (name: string, more: Pick<Action, 'roles' | 'steps'> & Partial<Action>): Action => {
    const made: Action = {
      id: freeId(`${name} ${table}`, known),
      name,
      table,
      several: 'each by itself',
      asks: [],
      ...more,
    };
    known.push(made);
    return made;
  };
  const why = reason === null ? '' : `\n\n> {{${printPath([reason])}}}`;
  return [
    action('Submit', {
      roles: submitters,
      steps: [
        { kind: 'move', move: submit! },
        ...approvers.map((role): ActionStep => ({
          kind: 'mail',
          mail: { to: 'role', role },
          subject: `To approve: ${word}`,
          text: `{{presser}} has submitted something of ${word}. It waits for you.`,
        })),
      ],
      says: 'It waits to be approved.',
    }),
    action('Approve', {
      roles: approvers,
      steps: [{ kind: 'move', move: approve! }, ...mail(`Approved: ${word}`, `{{presser}} has approved it.`)],
      says: 'It is approved.',
    }),
    action('Send back', {
      roles: approvers,
      asks: reason === null ? [] : [{ id: 'reason', table, column: reason, label: 'Why', required: true }],
      steps: [
        ...(reason === null
          ? []
          : [{ kind: 'set' as const, values: { [reason]: { kind: 'asked' as const, ask: 'reason' } } }]),
        { kind: 'move', move: back! },
        ...mail(`Sent back: ${word}`, `{{presser}} has sent it back.${why}`),
      ],
      says: 'It is sent back.',
    }),
  ];
}

/** A page for those who approve, with what waits for them. */
function waitingPage(
  draft: PortalDefinition,
  catalogue: Catalogue,
  table: Table,
  of: Approval,
  acts: string[],
): string | null {
  const [role] = of.approvers;
  const list = proposals(draft, catalogue, role!).find((each) => each.what === 'list' && each.table === of.table);
  if (!list) return null;
  layDown(draft, [list]);
  const page = draft.pages.at(-1)!;
  const word = draft.tables[of.table]?.label ?? table.name.replaceAll('_', ' ');
  Object.assign(page, {
    id: freeId(`to approve ${table.name}`, draft.pages.slice(0, -1)),
    title: 'To approve',
    intro: `What of ${word} waits for you.`,
    audience: { roles: of.approvers },
  });
  for (const section of page.sections)
    if (section.kind === 'list') Object.assign(section, { where: is(of.column, of.submitted), acts });
  return page.id;
}

const is = (column: string, text: string): Condition => ({
  kind: 'compare',
  left: { kind: 'column', path: [column] },
  comparison: '=',
  right: { kind: 'text', text },
});

const seenBy = (draft: PortalDefinition, table: string, role: string): RowFilter =>
  draft.access[table]?.[role]?.see?.where ?? 'every row';

const both = (where: RowFilter, more: Condition): Condition =>
  where === 'every row' ? more : { kind: 'all', parts: [where, more] };

/** The column that is offered first. */
export const firstState = (draft: PortalDefinition, table: Table): Column | null =>
  stateColumns(draft, table)[0] ?? null;

export const stateChoices = (table: Table, column: string): string[] => findColumn(table, column)?.choices ?? [];
