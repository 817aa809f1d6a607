import { actionLenses } from '../access/action-rights';
import { actionLoops } from './action-loops';
import { lensOf, type Lens } from '../access/lens';
import { neededColumns } from '../access/view';
import { checkCondition } from '../condition/check';
import { unshifted, type Condition } from '../condition/tree';
import {
  columnsInMail,
  columnsWritten,
  isOperandValue,
  makesOf,
  mailWordsProblem,
  valuesSet,
  type Action,
  type ActionStep,
  type CallStep,
  type StepValue,
} from '../definition/action';
import type { PortalDefinition, Role } from '../definition/definition';
import { formOpenedWith } from '../definition/opened-form';
import { findColumn, findTable, isPathProblem, resolvePath, type Catalogue, type Table } from '../table/catalogue';
import { readPath } from '../definition/path';
import type { Finding } from './finding';

type Say = (key: string, more: Pick<Finding, 'kind' | 'severity' | 'title' | 'why'>) => Finding;

/** What is wrong with actions: nobody can do one, it can't be done, or it writes what whoever presses doesn't see. */
export function findActions(
  definition: PortalDefinition,
  catalogue: Catalogue,
  isAway: (table: string) => boolean,
): Finding[] {
  const loops = new Map(actionLoops(definition, catalogue).map((loop) => [loop[0]!, loop]));
  return (definition.actions ?? []).flatMap((action) => {
    if (isAway(action.table)) return [];
    const say: Say = (key, more) => ({
      id: `action/${action.id}/${key}`,
      place: { stage: 'pages', screen: '!actions', what: action.id },
      ...more,
    });
    const broken = (key: string, problem: string): Finding =>
      say(key, {
        kind: 'action does not work',
        severity: 'broken',
        title: `“${action.name}” can't be done: ${problem}`,
        why: 'Nobody gets its button until it is mended.',
      });
    const table = findTable(catalogue, action.table);
    if (!table) return [broken('table', `there is no table ${action.table} any more`)];
    const problem = problemOf(definition, catalogue, table, action);
    if (problem !== null) return [broken('broken', problem)];
    const loop = loops.get(action);
    if (loop)
      return [
        say('loop', {
          kind: 'action sets itself off',
          severity: 'broken',
          title:
            loop.length === 1
              ? `“${action.name}” sets itself off`
              : `${loop.map(({ name }) => `“${name}”`).join(', then ')} sets off “${action.name}” again`,
          why: 'Whatever sets it off is refused, as it would go on without an end. Narrow when it is done.',
        }),
      ];
    const alone = action.on ? aloneProblem(definition, action) : null;
    if (alone !== null) return [broken('by itself', alone)];
    if (action.roles.length === 0)
      return [
        say('nobody', {
          kind: 'action for nobody',
          severity: 'broken',
          title: `Nobody may do “${action.name}”`,
          why: 'It is a right of its roles, and none is chosen yet.',
        }),
      ];
    return action.roles.flatMap((id) => {
      const role = definition.roles.find((each) => each.id === id);
      const lens = role ? lensOf(definition, catalogue, table, id) : null;
      if (!role) return [broken(`role/${id}`, 'it is a right of a role that is gone')];
      return ofRole(definition, catalogue, { action, table, role, lens, say });
    });
  });
}

/** Why it can be done by nobody, whichever role they have; null where it can. */
function problemOf(definition: PortalDefinition, catalogue: Catalogue, table: Table, action: Action): string | null {
  const asked = (where: Condition | 'every row' | undefined, of: Table): string | null =>
    typeof where === 'object'
      ? (checkCondition(where, { catalogue, table: of, member: true })[0]?.reason ?? null)
      : null;
  const steps = action.steps.map((step) => stepProblem(definition, catalogue, table, action, step));
  const [problem] = [asked(action.where, table), asked(action.keepIn, table), ...steps].filter((each) => each !== null);
  if (problem !== undefined) return problem;
  if (action.steps.every((step) => step.kind === 'set' && Object.keys(step.values).length === 0))
    return 'it does nothing yet';
  if (action.on?.what === 'time' && table.key.length === 0)
    return `it goes through the records by their key, and ${table.name} has none`;
  const gone = action.asks.find(
    (ask) => findColumn(findTable(catalogue, ask.table) ?? table, ask.column) === undefined,
  );
  const file = action.asks.find(
    (ask) => ask.required && findColumn(findTable(catalogue, ask.table) ?? table, ask.column)?.kind === 'file',
  );
  if (file && action.several) return 'it needs a file, which is for one record, and is done with several at once';
  return gone ? `it asks for ${gone.table}.${gone.column}, which is gone` : null;
}

/** Why an action can't be done without a press; null where it can. */
function aloneProblem(definition: PortalDefinition, { table, on, roles, asks, steps }: Action): string | null {
  const [role, ...more] = roles.map((id) => definition.roles.find((each) => each.id === id));
  if (!role || more.length > 0 || role.for !== 'services')
    return 'it is done by itself, so it needs one role for services';
  if (asks.length > 0) return 'it is done by itself, and nobody is there to be asked';
  if (steps.some((step) => step.kind === 'mail' && step.mail.to === 'presser'))
    return 'it is done by itself, so its mail to whoever presses goes to nobody';
  if (on?.what === 'deleted' && steps.some(({ kind }) => kind === 'set' || kind === 'move'))
    return 'it would change a record that is deleted by then';
  if (on?.what === 'made' && on.form !== undefined) {
    const form = definition.forms?.find(({ id }) => id === on.form);
    if (form?.table !== table || form.changes) return 'the form that sets it off is gone';
    if (form.anonymous) return 'the form that sets it off is anonymous, and what leaves is kept with its moment';
  }
  const moves = definition.lifecycles?.find((each) => each.table === table)?.moves ?? [];
  if (
    on?.what === 'moved' &&
    (moves.length === 0 || (on.move !== undefined && !moves.some(({ id }) => id === on.move)))
  )
    return 'the move that sets it off is gone';
  return null;
}

function stepProblem(
  definition: PortalDefinition,
  catalogue: Catalogue,
  table: Table,
  action: Action,
  step: ActionStep,
): string | null {
  switch (step.kind) {
    case 'set':
      return valuesProblem(catalogue, table, table, action, step.values);
    case 'make': {
      const made = findTable(catalogue, step.table);
      if (!made) return `there is no table ${step.table} any more`;
      return valuesProblem(catalogue, table, made, action, step.values, makesOf(action).indexOf(step));
    }
    case 'move': {
      const lifecycle = definition.lifecycles?.find((each) => each.table === table.name);
      return lifecycle?.moves.some(({ id }) => id === step.move) ? null : 'the move that it makes is gone';
    }
    case 'mail': {
      const problem = mailWordsProblem(step);
      if (problem !== null) return `its mail can't be written: ${problem}`;
      if (step.mail.to === 'role' && !definition.roles.some(({ id }) => id === (step.mail as { role: string }).role))
        return 'it writes to a role that is gone';
      const paths = [
        ...(step.mail.to === 'column' ? [step.mail.path] : []),
        ...columnsInMail(step).map((value) => readPath(value) ?? [value]),
      ];
      const gone = paths.find((path) => isPathProblem(resolvePath(catalogue, table, path)));
      return gone ? `its mail goes by ${gone.join('.')}, which is gone` : null;
    }
    case 'call': {
      const to = definition.addresses?.find(({ id }) => id === step.address);
      if (!to) return 'the address that it calls is gone';
      return sentProblem(catalogue, table, action, step) ?? answersProblem(table, to.name, step);
    }
    case 'go':
      if (!definition.pages.some(({ id }) => id === step.page)) return 'the page that it leads to is gone';
      return step.withRecord && formOpenedWith(definition, step.page, table.name) === undefined
        ? 'the page that it leads to has no form that opens with the record'
        : null;
  }
}

function valuesProblem(
  catalogue: Catalogue,
  from: Table,
  to: Table,
  action: Action,
  values: Record<string, StepValue>,
  /** Its place among what is made; null where nothing is. */
  place: number | null = null,
): string | null {
  for (const [column, value] of Object.entries(values)) {
    if (!findColumn(to, column)) return `there is no column ${column} in ${to.name} any more`;
    if (value.kind === 'asked' && !action.asks.some(({ id }) => id === value.ask))
      return `nothing is asked for ${to.name}.${column}`;
    if (value.kind === 'made') {
      const before = makesOf(action)[value.make];
      const isBefore = before !== undefined && (place === null || value.make < place);
      if (place === null || !isBefore) return `${to.name}.${column} goes by a record that is not made before`;
      if (!to.relations.some((each) => each.column === column && each.table === before.table))
        return `${to.name}.${column} doesn't lead to ${before.table}`;
    }
    if (value.kind === 'this' && !to.relations.some((each) => each.column === column && each.table === from.name))
      return `${to.name}.${column} doesn't lead to ${from.name}`;
    const path = pathOf(value);
    const found = path && resolvePath(catalogue, from, path);
    if (found && isPathProblem(found)) return `it goes by ${path.join('.')}, which is gone`;
  }
  return null;
}

function sentProblem(catalogue: Catalogue, table: Table, action: Action, { values }: CallStep): string | null {
  for (const [called, value] of Object.entries(values)) {
    if (value.kind === 'made') return `${called} is a record that it makes, and what is made is not told`;
    if (value.kind === 'asked' && !action.asks.some(({ id }) => id === value.ask))
      return `nothing is asked for ${called}`;
    const path = pathOf(value);
    if (path && isPathProblem(resolvePath(catalogue, table, path))) return `it sends ${path.join('.')}, which is gone`;
  }
  return null;
}

function answersProblem(table: Table, address: string, { answers = {} }: CallStep): string | null {
  const gone = Object.keys(answers).find((column) => !findColumn(table, column));
  return gone ? `what ${address} answers goes into ${table.name}.${gone}, which is gone` : null;
}

/** The column of the record that a value is taken from; null where it is none. */
function pathOf(value: StepValue): string[] | null {
  if (!isOperandValue(value)) return null;
  const plain = unshifted(value);
  return plain.kind === 'column' ? plain.path : null;
}

interface OfRole {
  action: Action;
  table: Table;
  role: Role;
  lens: Lens | null;
  say: Say;
}

function ofRole(definition: PortalDefinition, catalogue: Catalogue, of: OfRole): Finding[] {
  const { action, table, role, lens, say } = of;
  const cant = (key: string, problem: string): Finding =>
    say(`${key}/${role.id}`, {
      kind: 'action does not work',
      severity: 'broken',
      title: `${role.name} can't do “${action.name}”: ${problem}`,
      why: 'They never get its button, or it is refused whenever they press it.',
    });
  if (!lens || lens.rows === 'no row') return [cant('unseen', `they see nothing of ${table.name}`)];
  const own = actionLenses(definition, catalogue, table, role.id, lens.rows).find((each) => each.action === action);
  if (!own) return [cant('closed', 'it would write what a ceiling, a key or a lifecycle closes')];
  const shown = (column: string) => lens.columns.get(column)?.level === 'shown';
  const paths = action.steps.flatMap((step) => ('values' in step ? Object.values(step.values).map(pathOf) : []));
  const written = action.steps.flatMap((step) =>
    step.kind === 'mail' && step.mail.to === 'column' ? [step.mail.path] : [],
  );
  const kept = [...paths, ...written].find((path) => path?.length === 1 && !shown(path[0]!));
  if (kept) return [cant('goes-by', `it goes by ${table.name}.${kept[0]!}, which they are not shown`)];
  const empty = own.makes.flatMap((make) => {
    const made = findTable(catalogue, make.step.table)!;
    const filled = (column: string) =>
      make.fills.has(column) ||
      make.stamps.some((stamp) => stamp.column === column && stamp.on !== 'change') ||
      definition.lifecycles?.some((each) => each.table === made.name && each.column === column && each.start);
    return neededColumns(made)
      .filter((column) => !filled(column))
      .map((column) => `${made.name}.${column}`);
  });
  if (empty.length > 0) return [cant('needed', `nothing fills ${empty.join(', ')}, which the database asks for`)];
  const unseen = columnsWritten(action).filter((column) => !lens.columns.has(column));
  const told = tellingOf(action, table, lens).map((column) =>
    say(`telling/${role.id}/${column}`, {
      kind: 'unique column tells',
      severity: 'leak',
      title: `${role.name} can find out by “${action.name}” which values of ${table.name}.${column} are taken`,
      why:
        "Values must be unique, so a refusal tells that somebody else's record has this one. Where that is a " +
        'secret, put in something else than what is asked.',
    }),
  );
  const blind = unseen.map((column) =>
    say(`blind/${role.id}/${column}`, {
      kind: 'action writes unseen',
      severity: 'leak',
      title: `${role.name} writes ${table.name}.${column} by “${action.name}”, and doesn't see it`,
      why: 'Whoever presses does not know what they change. Show the column, or accept it where it is meant so.',
    }),
  );
  return [...told, ...blind];
}

/** Unique columns of the record that are filled with what is asked, and that the role could not fill otherwise. */
function tellingOf(action: Action, table: Table, lens: Lens): string[] {
  const seesAll = lens.rows !== 'no row' && lens.rows.length === 0;
  if (seesAll) return [];
  return Object.entries(valuesSet(action))
    .filter(([column, { kind }]) => kind === 'asked' && findColumn(table, column)?.unique === true)
    .map(([column]) => column)
    .filter((column) => !lens.edit?.columns.has(column));
}
