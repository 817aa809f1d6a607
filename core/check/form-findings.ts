import { lensOf } from '../access/lens';
import { rolesNamed } from '../access/public-pages';
import { neededColumns } from '../access/view';
import { isNever } from '../condition/analyse';
import { pathsOf, unshifted, type Condition } from '../condition/tree';
import { factsOf, inputsOf, isThis, linesOf, type Form, type FormValue } from '../definition/form';
import type { PortalDefinition, Role } from '../definition/definition';
import { anonymityProblem } from '../form/anonymity';
import { askedTable, formConditionProblem, recordConditionProblem } from '../form/form-conditions';
import { findColumn, findTable, isPathProblem, resolvePath, type Catalogue, type Table } from '../table/catalogue';
import type { Finding } from './finding';

/** What is wrong with forms: one that can't be sent by those who get it, or asks what nobody may fill. */
export function findForms(
  definition: PortalDefinition,
  catalogue: Catalogue,
  isAway: (table: string) => boolean,
): Finding[] {
  return (definition.forms ?? []).flatMap((form) => {
    if (isAway(form.table)) return [];
    const broken = (key: string, title: string, why: string): Finding => ({
      id: `form/${form.id}/${key}`,
      kind: 'form does not work',
      severity: 'broken',
      place: { stage: 'pages', screen: '!forms', what: form.id },
      title,
      why,
    });
    const table = findTable(catalogue, form.table);
    const never = `Nobody can send “${form.title}”`;
    if (!table)
      return [broken('table', `${never}: there is no table ${form.table} any more`, 'Its place on pages is empty.')];
    const told = form.anonymous ? anonymityProblem(definition, table, form) : null;
    if (told !== null)
      return [
        broken(
          'anonymous',
          `${never}: ${told}`,
          'It says that it is anonymous, so nobody gets it until that is mended.',
        ),
      ];
    const parts = partFaults(definition, catalogue, table, form).map(([key, title, why]) => broken(key, title, why));
    const roles = rolesOfForm(definition, form).flatMap((role): Finding[] => {
      const problem = problemFor(definition, catalogue, table, form, role);
      return problem === null
        ? []
        : [
            broken(
              `role/${role.id}`,
              `${role.name} can't send “${form.title}”: ${problem}`,
              'They get the page, and whatever they enter is refused. A form gives no right: grant it under Access.',
            ),
          ];
    });
    return [...parts, ...roles];
  });
}

/** The roles that get a page, or the section of it, where the form is. */
function rolesOfForm(definition: PortalDefinition, { id }: Form): Role[] {
  const got = new Set(
    definition.pages.flatMap(({ audience, sections }) =>
      sections
        .filter((section) => section.kind === 'form' && (section as { form?: string }).form === id)
        .flatMap((section) => {
          const own = section.audience && rolesNamed(section.audience.roles, definition);
          return rolesNamed(audience.roles, definition).filter((role) => own?.includes(role) ?? true);
        }),
    ),
  );
  return definition.roles.filter((role) => got.has(role.id));
}

function problemFor(
  definition: PortalDefinition,
  catalogue: Catalogue,
  table: Table,
  form: Form,
  role: Role,
): string | null {
  const lens = lensOf(definition, catalogue, table, role.id);
  const from = form.from === undefined ? undefined : findTable(catalogue, form.from);
  if (from && !seesAny(definition, catalogue, from, role))
    return `they see nothing of ${from.name}, with which it opens`;
  for (const part of linesOf(form)) {
    const made = findTable(catalogue, part.table);
    const columns = made ? lensOf(definition, catalogue, made, role.id)?.create?.columns : undefined;
    if (made && !columns?.has(part.by)) return `they may make no record of ${part.table} that leads to it`;
  }
  if (form.changes) {
    const edited = lens?.edit?.columns ?? new Set<string>();
    if (lens === null || lens.rows === 'no row') return `they see nothing of ${table.name}`;
    const kept = Object.keys(form.fills ?? {}).find((column) => !edited.has(column));
    if (kept !== undefined) return `it fills ${table.name}.${kept}, which they may not change`;
    return inputsOf(form).some(({ column }) => edited.has(column)) ? null : `they may change nothing that it asks for`;
  }
  if (!lens?.create) return `they may make no record of ${table.name}`;
  const unseen = Object.keys(form.fills ?? {}).find((column) => !lens.create!.columns.has(column));
  if (unseen !== undefined) return `it fills ${table.name}.${unseen}, which they may not`;
  const asked = new Set(inputsOf(form).map(({ column }) => column));
  const filled = (column: string) =>
    (asked.has(column) && lens.create!.columns.has(column)) ||
    Object.hasOwn(form.fills ?? {}, column) ||
    lens.stamps.some((stamp) => stamp.column === column && stamp.on !== 'change') ||
    definition.lifecycles?.some((each) => each.table === table.name && each.column === column && each.start);
  const missing = neededColumns(table).filter((column) => !filled(column));
  return missing.length > 0 ? `nothing fills ${missing.join(', ')}, which the database asks for` : null;
}

const seesAny = (definition: PortalDefinition, catalogue: Catalogue, table: Table, { id }: Role): boolean =>
  (lensOf(definition, catalogue, table, id)?.rows ?? 'no row') !== 'no row';

/** Every condition of a form, with the columns that are asked before what it decides. */
function conditionsOf(form: Form): { key: string; called: string; when?: Condition; before?: Set<string> }[] {
  const before = new Set<string>();
  const shown = form.steps.flatMap(({ id, title, when, parts }) => [
    { key: `step/${id}`, called: `the step “${title}”`, when, before: new Set(before) },
    ...parts.map((part, i) => {
      const own = { key: `part/${id}/${i}`, when: part.when, before: new Set(before) };
      if (part.kind === 'words') return { ...own, called: 'words' };
      if (part.kind === 'fact') return { ...own, called: part.label ?? part.path.join('.') };
      if (part.kind === 'lines') return { ...own, called: part.label ?? part.table };
      before.add(part.column);
      return { ...own, called: part.label ?? part.column };
    }),
  ]);
  return [
    ...shown,
    ...(form.rules ?? []).map(({ id, when }) => ({ key: `rule/${id}`, called: `the rule ${id}`, when })),
  ];
}

type Fault = [key: string, title: string, why: string];

function partFaults(definition: PortalDefinition, catalogue: Catalogue, table: Table, form: Form): Fault[] {
  const asked = new Set<string>();
  const faults: Fault[] = [];
  const filled = new Set(
    Object.values(definition.access[table.name] ?? {}).flatMap(
      (grant) => (form.changes ? grant.edit : grant.create)?.columns ?? [],
    ),
  );
  for (const { column } of inputsOf(form)) {
    if (!findColumn(table, column))
      faults.push([
        `gone/${column}`,
        `“${form.title}” asks for ${column}, which is gone`,
        'It is left out for everybody. Take it out, or ask for another column.',
      ]);
    else if (!filled.has(column))
      faults.push([
        `unfilled/${column}`,
        `“${form.title}” asks for ${table.name}.${column}, which nobody may fill`,
        'It is left out for everybody. Grant it under Access, or take it out.',
      ]);
    if (asked.has(column))
      faults.push([
        `twice/${column}`,
        `“${form.title}” asks twice for ${table.name}.${column}`,
        'What is entered at one stands at both. Take one out.',
      ]);
    asked.add(column);
  }
  faults.push(...openedFaults(catalogue, table, form), ...lineFaults(catalogue, form));
  for (const { key, called, when, before } of conditionsOf(form)) {
    if (!when) continue;
    const later = before && pathsOf(when).find(([column]) => asked.has(column!) && !before.has(column!));
    if (later)
      faults.push([
        `later/${key}`,
        `Whether ${called} of “${form.title}” is shown goes by ${later[0]!}, which is asked later`,
        'By then nothing is entered there. Ask for it before, or go by something else.',
      ]);
    const problem = formConditionProblem(when, askedTable(table, form), catalogue);
    if (problem !== null)
      faults.push([
        key,
        `When ${called} of “${form.title}” holds can't be told: ${problem}`,
        'So it never does. Conditions of a form go by what is entered in it, or by the person alone.',
      ]);
    else if (isNever(when, { catalogue, table, member: true }))
      faults.push([
        key,
        `Nobody ever reaches ${called} of “${form.title}”: its condition is never true`,
        'Write the condition again, or take it out.',
      ]);
  }
  if (form.then && !definition.pages.some(({ id }) => id === form.then!.page))
    faults.push([
      'then',
      `“${form.title}” leads to a page that is gone`,
      'Whoever sends it stays where they are. Choose another page.',
    ]);
  return faults;
}

/** What goes by the record that the form is opened with, and can't. */
function openedFaults(catalogue: Catalogue, table: Table, form: Form): Fault[] {
  const says = 'It is left out for everybody, or refuses to be sent. Choose what is there.';
  if (form.changes && form.from !== undefined && form.from !== form.table)
    return [['from', `“${form.title}” changes a record of ${form.table}, and opens with one of ${form.from}`, says]];
  const from = form.from === undefined ? (form.changes ? table : null) : findTable(catalogue, form.from);
  if (from === undefined)
    return [['from', `“${form.title}” opens with a record of ${form.from!}, which is gone`, 'Nobody can open it.']];
  const gone = (path: readonly string[]): boolean => from === null || isPathProblem(resolvePath(catalogue, from, path));
  const facts = factsOf(form).filter(({ of, path }) => of === 'record' && gone(path));
  const values: [string, FormValue][] = [
    ...inputsOf(form).flatMap(({ column, first }): [string, FormValue][] => (first ? [[column, first]] : [])),
    ...Object.entries(form.fills ?? {}),
  ];
  const wrong = values.filter(([column, value]) => {
    if (isThis(value))
      return !from || !table.relations.some((each) => each.column === column && each.table === from.name);
    const plain = unshifted(value);
    return plain.kind === 'column' && gone(plain.path);
  });
  const conditions = form.steps.flatMap((step) => [step, ...step.parts].flatMap(({ ofRecord }) => ofRecord ?? []));
  const unasked = conditions.flatMap((where): Fault[] => {
    const problem = from === null ? 'it opens with none' : recordConditionProblem(where, from, catalogue);
    if (problem === null) return [];
    return [
      [
        'of-record',
        `Something of “${form.title}” goes by the record that it opens with, and can't: ${problem}`,
        'It is never shown. Write the condition again, or take it out.',
      ],
    ];
  });
  return [
    ...unasked.slice(0, 1),
    ...facts.map(({ path }): Fault => [
      `fact/${path.join('.')}`,
      `“${form.title}” shows ${path.join('.')}, which the record that it opens with does not have`,
      says,
    ]),
    ...wrong.map(([column]): Fault => [
      `value/${column}`,
      `“${form.title}” puts into ${table.name}.${column} what the record that it opens with does not have`,
      says,
    ]),
  ];
}

function lineFaults(catalogue: Catalogue, form: Form): Fault[] {
  return linesOf(form).flatMap((part): Fault[] => {
    const made = findTable(catalogue, part.table);
    const says = 'They are left out for everybody. Choose another table, or take them out.';
    if (form.changes)
      return [[`lines/${part.id}`, `“${form.title}” changes a record, so no lines can be sent with it`, says]];
    if (!made) return [[`lines/${part.id}`, `“${form.title}” sends lines of ${part.table}, which is gone`, says]];
    const leads = made.relations.some((each) => each.column === part.by && each.table === form.table);
    if (!leads)
      return [[`lines/${part.id}`, `${part.table}.${part.by} in “${form.title}” does not lead to ${form.table}`, says]];
    const gone = part.inputs.find(({ column }) => !findColumn(made, column));
    return gone
      ? [[`lines/${part.id}`, `“${form.title}” asks for ${part.table}.${gone.column}, which is gone`, says]]
      : [];
  });
}
