import type { Condition, Operand } from '../condition/tree';
import { type Catalogue, type ManyRelation, type Relation, type Table } from '../table/catalogue';
import { printPath, readPath } from './path';
import type { NewNames } from './section';

/**
 * Names as they are after a change of names: tables, columns and relations stand in the same places of both catalogues.
 * What leads nowhere in the old one is left as it is.
 */
export class Names implements NewNames {
  constructor(
    private readonly from: Catalogue,
    private readonly to: Catalogue,
  ) {}

  private at(table: string): { old: Table; now: Table } | null {
    const place = this.from.tables.findIndex((each) => each.name === table);
    return place < 0 ? null : { old: this.from.tables[place]!, now: this.to.tables[place]! };
  }

  table = (name: string): string => this.at(name)?.now.name ?? name;

  column = (table: string, name: string): string => {
    const at = this.at(table);
    const place = at ? at.old.columns.findIndex((column) => column.name === name) : -1;
    return place < 0 ? name : at!.now.columns[place]!.name;
  };

  columns = (table: string, names: readonly string[]): string[] => names.map((name) => this.column(table, name));

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
  private followed(table: string, path: readonly string[], relationsAlone = false): { path: string[]; table: string } {
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

  path = (table: string, text: string): string => {
    const path = readPath(text);
    return path ? printPath(this.followed(table, path).path) : text;
  };

  fact(fact: string[]): string[] {
    const [roster, ...path] = fact as [string, ...string[]];
    return path.length === 0 ? fact : [this.table(roster), ...this.followed(roster, path).path];
  }

  operand<T extends Operand>(table: string, operand: T): T {
    switch (operand.kind) {
      case 'column':
        return { ...operand, path: this.followed(table, operand.path).path };
      case 'member':
        return { ...operand, fact: this.fact(operand.fact) };
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
        const { path, table: inner } = this.followed(table, condition.relation, true);
        return { ...condition, relation: path, where: condition.where && this.condition(inner, condition.where) };
      }
      case 'all':
      case 'any':
        return { ...condition, parts: condition.parts.map((part) => this.condition(table, part)) };
      case 'not':
        return { ...condition, part: this.condition(table, condition.part) };
    }
  }
}

/** A condition on a table over a catalogue whose names have changed, as `translate` has it for a definition. */
export function translateCondition(condition: Condition, table: string, from: Catalogue, to: Catalogue): Condition {
  return new Names(from, to).condition(table, condition);
}
