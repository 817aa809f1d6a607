import type { Condition, Operand } from '../condition/tree';
import {
  findTable,
  withManyRelations,
  type Catalogue,
  type ManyRelation,
  type Relation,
  type Table,
} from '../table/catalogue';
import { relationName } from '../table/relation-name';
import type { Grant, ListSection, MaskRule, PortalDefinition, PortalPromise, TableNotes } from './definition';
import { printPath, readPath } from './path';

/** A table, or one of its columns, that gets another name. */
export interface Renaming {
  table: string;
  column?: string;
  to: string;
}

/**
 * The catalogue as it will be after a renaming; relations that are called after a column are called after its new name.
 */
export function renamedCatalogue(catalogue: Catalogue, { table, column, to }: Renaming): Catalogue {
  const tableName = (name: string) => (column === undefined && name === table ? to : name);
  const columnName = (of: string, name: string) =>
    column !== undefined && of === table && name === column ? to : name;
  const tables = catalogue.tables.map((each): Table => {
    const columns = each.columns.map((known) => ({
      ...known,
      name: columnName(each.name, known.name),
      ...(known.from
        ? {
            from: known.from.map((origin) => ({
              table: tableName(origin.table),
              column: columnName(origin.table, origin.column),
            })),
          }
        : {}),
    }));
    const renamed: Table = {
      ...each,
      name: tableName(each.name),
      ...(each.stored === undefined
        ? {}
        : { stored: tableName(each.name).slice(tableName(each.name).indexOf(':') + 1) }),
      columns,
      key: each.key.map((name) => columnName(each.name, name)),
      relations: [],
    };
    if (each.foreignKeys)
      renamed.foreignKeys = each.foreignKeys.map((key) => ({
        columns: key.columns.map((known) => columnName(each.name, known)),
        table: key.table === null ? null : tableName(key.table),
        targetColumns: key.targetColumns.map((known) => (key.table === null ? known : columnName(key.table, known))),
      }));
    for (const relation of each.relations) {
      const own = columnName(each.name, relation.column);
      const called = own === relation.column ? relation.name : relationName(own, renamed);
      renamed.relations.push({
        name: called,
        column: own,
        table: tableName(relation.table),
        targetColumn: columnName(relation.table, relation.targetColumn),
      });
    }
    return renamed;
  });
  return withManyRelations({ ...catalogue, tables });
}

/** A condition on a table over a catalogue whose names have changed, as `translate` has it for a definition. */
export function translateCondition(condition: Condition, table: string, from: Catalogue, to: Catalogue): Condition {
  return new Translation(from, to).condition(table, condition);
}

/**
 * The catalogue with one table or column more: a name that definitions may still speak of although nothing is called so
 * any more.
 */
function withStray(catalogue: Catalogue, { table, column }: Omit<Renaming, 'to'>): Catalogue {
  if (column === undefined)
    return { ...catalogue, tables: [...catalogue.tables, { name: table, columns: [], key: [], relations: [] }] };
  const stray = {
    name: column,
    type: 'other' as const,
    nativeType: '',
    nullable: true,
    hasDefault: false,
    automatic: false,
    unique: false,
  };
  return {
    ...catalogue,
    tables: catalogue.tables.map((each) =>
      each.name === table ? { ...each, columns: [...each.columns, stray] } : each,
    ),
  };
}

/**
 * Where a definition still speaks of a table or column that is not there, each in words: what a new thing of that name
 * would inherit. Empty when there is something of that name.
 */
export function strayUses(
  definition: PortalDefinition,
  catalogue: Catalogue,
  table: string,
  column?: string,
): string[] {
  const known = findTable(catalogue, table);
  if (column === undefined ? known : known?.columns.some((each) => each.name === column)) return [];
  return usesOf(
    definition,
    withStray(catalogue, { table, ...(column === undefined ? {} : { column }) }),
    table,
    column,
  );
}

/**
 * The definition with a name that leads nowhere replaced by another that leads nowhere: what was meant for something
 * that is gone is nobody else's.
 */
export function withoutStray(definition: PortalDefinition, catalogue: Catalogue, stray: Renaming): PortalDefinition {
  const there = findTable(catalogue, stray.table);
  if (stray.column === undefined ? there : there?.columns.some((each) => each.name === stray.column)) return definition;
  const known = withStray(catalogue, stray);
  return translate(definition, known, renamedCatalogue(known, stray));
}

/**
 * The same definition over a catalogue whose names have changed and nothing else: tables, columns and relations stand
 * in the same places of both. What leads nowhere in the old one is left as it is.
 */
export function translate(definition: PortalDefinition, from: Catalogue, to: Catalogue): PortalDefinition {
  return new Translation(from, to).definition(definition);
}

class Translation {
  constructor(
    private readonly from: Catalogue,
    private readonly to: Catalogue,
  ) {}

  private at(table: string): { old: Table; now: Table } | null {
    const place = this.from.tables.findIndex((each) => each.name === table);
    return place < 0 ? null : { old: this.from.tables[place]!, now: this.to.tables[place]! };
  }

  private table = (name: string): string => this.at(name)?.now.name ?? name;

  private column = (table: string, name: string): string => {
    const at = this.at(table);
    const place = at ? at.old.columns.findIndex((column) => column.name === name) : -1;
    return place < 0 ? name : at!.now.columns[place]!.name;
  };

  private columns = (table: string, names: readonly string[]): string[] =>
    names.map((name) => this.column(table, name));

  /** One relation further: its new name, and the table that it leads to. */
  private step(table: string, part: string): { part: string; table: string } | null {
    const at = this.at(table);
    const follow = (of: (each: Table) => readonly (Relation | ManyRelation)[] | undefined) => {
      const place = at ? (of(at.old) ?? []).findIndex((relation) => relation.name === part) : -1;
      return place < 0 ? null : { part: of(at!.now)?.[place]?.name ?? part, table: of(at!.old)![place]!.table };
    };
    return follow((each) => each.relations) ?? follow((each) => each.many);
  }

  /** Relations to follow, and last a column unless `relations` stand alone. */
  private path(table: string, path: readonly string[], relationsAlone = false): { path: string[]; table: string } {
    const steps: string[] = [];
    let at = table;
    for (const [i, part] of path.entries()) {
      const next = relationsAlone || i < path.length - 1 ? this.step(at, part) : null;
      if (!next) {
        steps.push(relationsAlone || i < path.length - 1 ? part : this.column(at, part));
        continue;
      }
      steps.push(next.part);
      at = next.table;
    }
    return { path: steps, table: at };
  }

  private pathText = (table: string, text: string): string => {
    const path = readPath(text);
    return path ? printPath(this.path(table, path).path) : text;
  };

  private operand<T extends Operand>(table: string, operand: T): T {
    switch (operand.kind) {
      case 'column':
        return { ...operand, path: this.path(table, operand.path).path };
      case 'member':
        return operand.fact.length === 2
          ? { ...operand, fact: [this.table(operand.fact[0]!), this.column(operand.fact[0]!, operand.fact[1]!)] }
          : operand;
      case 'record':
        return { ...operand, column: this.column(table, operand.column) };
      case 'shifted':
        return { ...operand, of: this.operand(table, operand.of) };
      default:
        return operand;
    }
  }

  condition(table: string, condition: Condition): Condition {
    const own = <T extends Operand>(operand: T): T => this.operand(table, operand);
    switch (condition.kind) {
      case 'compare':
        return { ...condition, left: own(condition.left), right: own(condition.right) };
      case 'in':
        return { ...condition, left: own(condition.left), list: condition.list.map(own) };
      case 'between':
        return { ...condition, left: own(condition.left), low: own(condition.low), high: own(condition.high) };
      case 'like':
        return { ...condition, left: own(condition.left), pattern: own(condition.pattern) };
      case 'null':
        return { ...condition, left: own(condition.left) };
      case 'has':
        return { ...condition, value: own(condition.value), column: own(condition.column) };
      case 'exists': {
        const { path, table: inner } = this.path(table, condition.relation, true);
        return { ...condition, relation: path, where: condition.where && this.condition(inner, condition.where) };
      }
      case 'all':
      case 'any':
        return { ...condition, parts: condition.parts.map((part) => this.condition(table, part)) };
      case 'not':
        return { ...condition, part: this.condition(table, condition.part) };
    }
  }

  private rows<T extends Condition | string | undefined>(table: string, filter: T): T {
    return (typeof filter === 'object' ? this.condition(table, filter as Condition) : filter) as T;
  }

  private grant(table: string, grant: Grant): Grant {
    const whole = structuredClone(grant);
    for (const part of [whole.see, whole.edit, whole.delete, whole.export])
      if (part) part.where = this.rows(table, part.where as Condition);
    for (const part of [whole.create, whole.edit])
      if (part?.keepIn) part.keepIn = this.rows(table, part.keepIn as Condition);
    for (const part of [whole.see, whole.create, whole.edit])
      if (part) part.columns = this.columns(table, part.columns);
    if (whole.edit?.unseen) whole.edit.unseen = this.columns(table, whole.edit.unseen);
    return whole;
  }

  private notes(table: string, notes: TableNotes): TableNotes {
    return {
      ...notes,
      ...(notes.titleColumn === undefined ? {} : { titleColumn: this.column(table, notes.titleColumn) }),
      ...(notes.address === undefined ? {} : { address: this.column(table, notes.address) }),
      ...(notes.key ? { key: this.columns(table, notes.key) } : {}),
      ...(notes.columns ? { columns: mapKeys(notes.columns, (name) => this.column(table, name)) } : {}),
      ...(notes.relations
        ? {
            relations: notes.relations.map((relation) => ({
              ...relation,
              column: this.column(table, relation.column),
              table: this.table(relation.table),
              targetColumn: this.column(relation.table, relation.targetColumn),
            })),
          }
        : {}),
    };
  }

  private section(section: ListSection): ListSection {
    const { table } = section;
    const text = (each: string) => this.pathText(table, each);
    return {
      ...section,
      table: this.table(table),
      columns: section.columns.map(text),
      record: section.record.map(text),
      where: this.rows(table, section.where),
      sort: section.sort.map((term) => ({ ...term, column: text(term.column) })),
    };
  }

  private promise(promise: PortalPromise): PortalPromise {
    const table = this.table(promise.table);
    if (promise.says === 'sees exactly') return { ...promise, table };
    return {
      ...promise,
      table,
      ...(promise.column === undefined ? {} : { column: this.column(promise.table, promise.column) }),
      ...(promise.where ? { where: this.condition(promise.table, promise.where) } : {}),
    };
  }

  definition(definition: PortalDefinition): PortalDefinition {
    const tables = mapKeys(
      Object.fromEntries(Object.entries(definition.tables).map(([table, notes]) => [table, this.notes(table, notes)])),
      this.table,
    );
    const access = mapKeys(
      Object.fromEntries(
        Object.entries(definition.access).map(([table, grants]) => [
          table,
          Object.fromEntries(Object.entries(grants).map(([role, grant]) => [role, this.grant(table, grant)])),
        ]),
      ),
      this.table,
    );
    const translated: PortalDefinition = {
      ...definition,
      tables,
      access,
      rosters: definition.rosters.map((roster) => ({
        ...roster,
        table: this.table(roster.table),
        name: this.column(roster.table, roster.name),
        email: this.column(roster.table, roster.email),
        ...(roster.roles === undefined
          ? {}
          : { roles: roster.roles.map((rule) => ({ ...rule, where: this.condition(roster.table, rule.where) })) }),
        ...(roster.organisation === undefined ? {} : { organisation: this.column(roster.table, roster.organisation) }),
      })),
      masks: definition.masks.map((rule): MaskRule =>
        'dataClass' in rule
          ? rule
          : { ...rule, table: this.table(rule.table), column: this.column(rule.table, rule.column) },
      ),
      pages: definition.pages.map((page) => ({
        ...page,
        sections: page.sections.map((section) => this.section(section)),
      })),
    };
    if (definition.fences)
      translated.fences = definition.fences.map((fence) => ({
        ...fence,
        table: this.table(fence.table),
        where: this.condition(fence.table, fence.where),
      }));
    if (definition.stamps)
      translated.stamps = definition.stamps.map((stamp) => ({
        ...stamp,
        table: this.table(stamp.table),
        column: this.column(stamp.table, stamp.column),
        value: this.operand(stamp.table, stamp.value),
      }));
    if (definition.lifecycles) {
      translated.lifecycles = definition.lifecycles.map((lifecycle) => ({
        ...lifecycle,
        table: this.table(lifecycle.table),
        column: this.column(lifecycle.table, lifecycle.column),
        moves: lifecycle.moves.map((move) => ({
          ...move,
          needs: this.columns(lifecycle.table, move.needs),
          ...(move.where ? { where: this.condition(lifecycle.table, move.where) } : {}),
        })),
      }));
    }
    if (definition.promises) translated.promises = definition.promises.map((promise) => this.promise(promise));
    return translated;
  }
}

function mapKeys<T>(record: Record<string, T>, name: (key: string) => string): Record<string, T> {
  return Object.fromEntries(Object.entries(record).map(([key, value]) => [name(key), value]));
}

/**
 * Where a definition uses a table or column, each in words, each once. Found by giving it another name and seeing what
 * that changes.
 */
export function usesOf(definition: PortalDefinition, catalogue: Catalogue, table: string, column?: string): string[] {
  if (!findTable(catalogue, table)) return [];
  const changed = translate(definition, catalogue, renamedCatalogue(catalogue, { table, column, to: '\u0001' }));
  const role = (id: string) => definition.roles.find((each) => each.id === id)?.name ?? id;
  const uses: string[] = [];
  const compare = (words: string, before: unknown, after: unknown) => {
    if (JSON.stringify(before) !== JSON.stringify(after)) uses.push(words);
  };
  const grants = Object.entries(definition.access);
  Object.values(changed.access).forEach((after, i) => {
    const [of, before] = grants[i]!;
    for (const [id, grant] of Object.entries(before))
      if (of === table && column === undefined) uses.push(`what ${role(id)} may do with ${of}`);
      else compare(`what ${role(id)} may do with ${of}`, grant, after[id]);
  });
  definition.rosters.forEach((roster, i) => compare(`the roster ${roster.table}`, roster, changed.rosters[i]));
  definition.masks.forEach((mask, i) => compare(`the mask ${mask.id}`, mask, changed.masks[i]));
  definition.pages.forEach((page, i) => compare(`the page ${page.title}`, page, changed.pages[i]));
  definition.fences?.forEach((fence, i) => compare(`the fence ${fence.id}`, fence, changed.fences![i]));
  definition.stamps?.forEach((stamp, i) => compare(`the stamp ${stamp.id}`, stamp, changed.stamps![i]));
  definition.lifecycles?.forEach((lifecycle, i) =>
    compare(`the lifecycle of ${lifecycle.table}`, lifecycle, changed.lifecycles![i]),
  );
  definition.promises?.forEach((promise, i) => compare(`the promise ${promise.id}`, promise, changed.promises![i]));
  return [...new Set(uses)];
}
