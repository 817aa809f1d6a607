import { kindOf } from '../condition/operand-kind';
import {
  findColumn,
  findTable,
  withManyRelations,
  type Catalogue,
  type ManyRelation,
  type Relation,
  type Table,
} from '../table/catalogue';
import type { PortalDefinition, PortalSource } from './definition';

type Sourced = Pick<PortalDefinition, 'source' | 'sources'>;

type Related = Pick<PortalDefinition, 'source' | 'sources' | 'tables'>;

/** The short name of the source that a table is in; null for the portal's own. */
export function sourceName({ sources }: Sourced, table: string): string | null {
  const end = table.indexOf(':');
  const name = table.slice(0, Math.max(end, 0));
  return end > 0 && sources && Object.hasOwn(sources, name) ? name : null;
}

/** Where a source is, by its short name. */
export function sourceCalled(definition: Sourced, name: string | null): PortalSource {
  return name === null ? definition.source : definition.sources![name]!;
}

/** What the database calls a table. */
export function storedName(definition: Sourced, table: string): string {
  const name = sourceName(definition, table);
  return name === null ? table : table.slice(name.length + 1);
}

/**
 * Every short name under which a definition has a source, null for its own: more than one where two names lead to the
 * same.
 */
export function namesOf(definition: Sourced, { connection, schema }: PortalSource): (string | null)[] {
  const all: [string | null, PortalSource][] = [[null, definition.source], ...Object.entries(definition.sources ?? {})];
  return all.filter(([, source]) => source.connection === connection && source.schema === schema).map(([name]) => name);
}

/** The name of a table of a source in a definition. */
export function nameIn(source: string | null, table: string): string {
  return source === null ? table : `${source}:${table}`;
}

/** The catalogue with the chosen tables alone, and with the relations among them. */
export function chosenTables(catalogue: Catalogue, chosen: readonly string[] | undefined): Catalogue {
  if (!chosen) return catalogue;
  const isChosen = new Set(chosen);
  const tables = catalogue.tables
    .filter((table) => isChosen.has(table.name))
    .map((table) => ({ ...table, relations: table.relations.filter((relation) => isChosen.has(relation.table)) }));
  return withManyRelations({ ...catalogue, tables });
}

/** The catalogue of a further source with its tables called as the definition calls them. */
export function namedCatalogue(catalogue: Catalogue, source: string | null): Catalogue {
  if (source === null) return catalogue;
  const called = (table: string) => nameIn(source, table);
  return {
    ...catalogue,
    tables: catalogue.tables.map((table): Table => ({
      ...table,
      name: called(table.name),
      stored: table.name,
      ...(table.query === undefined
        ? {}
        : {
            columns: table.columns.map((column) =>
              column.from
                ? { ...column, from: column.from.map((origin) => ({ ...origin, table: called(origin.table) })) }
                : column,
            ),
          }),
      relations: table.relations.map((relation) => ({ ...relation, table: called(relation.table) })),
      many: table.many?.map((many) => ({ ...many, table: called(many.table) })),
      ...(table.foreignKeys
        ? {
            foreignKeys: table.foreignKeys.map((key) => ({
              ...key,
              table: key.table === null ? null : called(key.table),
            })),
          }
        : {}),
    })),
  };
}

/** The relations of a table that lead into another source, as builders declared them. */
export function crossingsFrom(definition: Related, table: string): Relation[] {
  const own = sourceName(definition, table);
  const declared = Object.hasOwn(definition.tables, table) ? (definition.tables[table]!.relations ?? []) : [];
  return declared.filter((relation) => sourceName(definition, relation.table) !== own);
}

/**
 * The other ends of the relations that lead to a table from another source. Each is named as a to-many relation of one
 * source is.
 */
export function crossingsTo(definition: Related, table: string): ManyRelation[] {
  const incoming = Object.keys(definition.tables).flatMap((from) =>
    crossingsFrom(definition, from)
      .filter((relation) => relation.table === table)
      .map((relation) => ({ from, relation })),
  );
  return incoming.map(({ from, relation }): ManyRelation => {
    const called = storedName(definition, from);
    const alone = incoming.filter((each) => storedName(definition, each.from) === called).length === 1;
    return {
      name: alone ? called : `${called}_by_${relation.name}`,
      table: from,
      column: relation.column,
      targetColumn: relation.targetColumn,
    };
  });
}

/** A path that leaves its source. */
export interface Crossing {
  /** The path of the column whose value is looked up there. */
  carrier: string[];
  relation: Relation;
  /** The path from the other source's table on. */
  rest: string[];
}

/**
 * Where a path from a table leaves its source; null where it stays in it, or leads nowhere. The source's own names come
 * first.
 */
export function crossingOn(
  definition: Related,
  catalogue: Catalogue,
  table: Table,
  path: readonly string[],
): Crossing | null {
  let at = table;
  for (const [i, part] of path.slice(0, -1).entries()) {
    const step = at.relations.find((relation) => relation.name === part);
    const next = step && findTable(catalogue, step.table);
    if (!next) {
      const relation = crossingsFrom(definition, at.name).find((each) => each.name === part);
      return relation ? { carrier: [...path.slice(0, i), relation.column], relation, rest: path.slice(i + 1) } : null;
    }
    at = next;
  }
  return null;
}

/**
 * Whether the values of a column can be looked up in a column of another table: both hold values of one kind, and there
 * each stands once.
 */
export function canJoin(from: Table, relation: Pick<Relation, 'column' | 'targetColumn'>, to: Table): boolean {
  const [near, far] = [findColumn(from, relation.column), findColumn(to, relation.targetColumn)];
  if (!near || !far) return false;
  const alone = far.unique || (to.key.length === 1 && to.key[0] === far.name);
  return alone && kindOf(near) === kindOf(far) && kindOf(near) !== 'none';
}

/**
 * The catalogue of all sources with the relations that cross among the others: for paths on pages. A condition or a
 * statement can't follow those.
 */
export function withCrossings(definition: Related, whole: Catalogue): Catalogue {
  if (!definition.sources) return whole;
  return {
    ...whole,
    tables: whole.tables.map((table): Table => {
      const crossings = crossingsFrom(definition, table.name).filter((relation) => {
        const target = findTable(whole, relation.table);
        return (
          target && canJoin(table, relation, target) && !table.relations.some((other) => other.name === relation.name)
        );
      });
      return crossings.length === 0 ? table : { ...table, relations: [...table.relations, ...crossings] };
    }),
  };
}
