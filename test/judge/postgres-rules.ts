import type { Condition, Operand } from '../../core/condition/tree';
import type { Fence, Grant, RowFilter } from '../../core/definition/definition';
import { isPathProblem, resolveMany, type Catalogue, type Column, type Table } from '../../core/table/catalogue';
import type { Value } from '../../core/table/value';
import { roles, today, type Scenario } from './scenario';

/**
 * The same portal in PostgreSQL's own words: CREATE POLICY (PostgreSQL 15 manual, section 5.8 and the reference page).
 * Written apart from the product's compiler, so that a fault there doesn't repeat here. Conditions read the raw tables
 * through views that belong to the superuser, whom row security does not bind; a policy's own subselect would be under
 * the policies again.
 */
export function policies({ definition, catalogue }: Scenario): string[] {
  const statements: string[] = [];
  const tables = catalogue.tables.filter((table) => table.name !== 'people');
  for (const table of tables) {
    statements.push(`ALTER TABLE ${table.name} ENABLE ROW LEVEL SECURITY`);
    const fences = (definition.fences ?? []).filter((fence) => fence.table === table.name);
    // A fence without exempt roles binds everyone: a restrictive policy. The others are ANDed into each role's own.
    for (const fence of fences.filter((each) => each.exceptRoles.length === 0)) {
      statements.push(
        `CREATE POLICY ${fence.id} ON ${table.name} AS RESTRICTIVE FOR ALL TO PUBLIC USING ` +
          `(${say(fence.where, table, catalogue)}) WITH CHECK (${say(fence.where, table, catalogue)})`,
      );
    }
    for (const role of roles) {
      const grant = definition.access[table.name]?.[role];
      if (grant)
        statements.push(
          ...grantPolicies(
            grant,
            role,
            table,
            catalogue,
            fences.filter((fence) => fence.exceptRoles.length > 0 && !fence.exceptRoles.includes(role)),
          ),
        );
    }
  }
  return statements;
}

function grantPolicies(grant: Grant, role: string, table: Table, catalogue: Catalogue, fences: Fence[]): string[] {
  const fenced = (filter: RowFilter) =>
    [filter, ...fences.map((fence) => fence.where)]
      .map((each) => (each === 'every row' ? 'TRUE' : `(${say(each, table, catalogue)})`))
      .join(' AND ');
  const filterOf = (where: RowFilter | 'as seen'): RowFilter => (where === 'as seen' ? grant.see!.where : where);
  const policy = (operation: string, rule: string) =>
    `CREATE POLICY ${role}_${operation.toLowerCase()} ON ${table.name} FOR ${operation} TO ${role} ${rule}`;
  const keptOnEdit = grant.edit && (grant.edit.keepIn ?? filterOf(grant.edit.where));
  const statements: string[] = [];
  if (grant.see) statements.push(policy('SELECT', `USING (${fenced(grant.see.where)})`));
  if (grant.create)
    statements.push(
      policy('INSERT', `WITH CHECK (${fenced(grant.create.keepIn ?? keptOnEdit ?? grant.see?.where ?? 'every row')})`),
    );
  if (grant.edit)
    statements.push(
      policy('UPDATE', `USING (${fenced(filterOf(grant.edit.where))}) WITH CHECK (${fenced(keptOnEdit!)})`),
    );
  if (grant.delete) statements.push(policy('DELETE', `USING (${fenced(filterOf(grant.delete.where))})`));
  return statements;
}

const types: Partial<Record<Column['type'], string>> = {
  'whole number': 'INT',
  text: 'TEXT',
  date: 'DATE',
  'yes/no': 'BOOLEAN',
  decimal: 'NUMERIC(6,2)',
};

/** Those who have one role, several or none. */
const everySet = Array.from({ length: 2 ** roles.length }, (_, set) => `p${set}`);

/** Tables with their rows, the superuser's views of them, and the rights that row security then narrows. */
export function tables({ catalogue, rows }: Scenario): string[] {
  return catalogue.tables.flatMap((table) => {
    const columns = table.columns.map((column) => {
      const relation = table.relations.find((each) => each.column === column.name);
      return (
        `${column.name} ${types[column.type]}` +
        `${column.name === 'id' ? ' PRIMARY KEY' : ''}${relation ? ` REFERENCES ${relation.table}` : ''}`
      );
    });
    const values = rows[table.name]!.map(
      (row) => `(${table.columns.map((column) => literal(row[column.name]!)).join(', ')})`,
    );
    return [
      `CREATE TABLE ${table.name} (${columns.join(', ')})`,
      ...(values.length ? [`INSERT INTO ${table.name} VALUES ${values.join(', ')}`] : []),
      `CREATE VIEW raw_${table.name} AS SELECT * FROM ${table.name}`,
      `GRANT SELECT ON raw_${table.name} TO PUBLIC`,
      ...(table.name === 'people'
        ? []
        : [
            `GRANT SELECT, INSERT, DELETE ON ${table.name} TO PUBLIC`,
            // Of those who may do actions each has some columns alone.
            `GRANT UPDATE ON ${table.name} TO ${everySet.join(', ')}`,
          ]),
    ];
  });
}

export function literal(value: Value): string {
  if (value === null) return 'NULL';
  return typeof value === 'string' ? `'${value.replaceAll("'", "''")}'` : String(value);
}

/** A condition on a row of `table`, named by `alias`. */
export function say(condition: Condition, table: Table, catalogue: Catalogue, alias = table.name, depth = 1): string {
  const operand = (each: Operand): string => sayOperand(each, table, catalogue, alias);
  const inner = (each: Condition): string => say(each, table, catalogue, alias, depth);
  switch (condition.kind) {
    case 'compare':
      return `${operand(condition.left)} ${condition.comparison} ${operand(condition.right)}`;
    case 'in':
      return `${operand(condition.left)} IN (${condition.list.map(operand).join(', ')})`;
    case 'between':
      return `${operand(condition.left)} BETWEEN ${operand(condition.low)} AND ${operand(condition.high)}`;
    case 'like':
      return `${operand(condition.left)} LIKE ${operand(condition.pattern)}`;
    case 'null':
      return `${operand(condition.left)} IS NULL`;
    case 'all':
      return condition.parts.map((part) => `(${inner(part)})`).join(' AND ');
    case 'any':
      return condition.parts.map((part) => `(${inner(part)})`).join(' OR ');
    case 'not':
      return `NOT (${inner(condition.part)})`;
    case 'exists': {
      const found = resolveMany(catalogue, table, condition.relation);
      if (isPathProblem(found)) throw new Error('no such relation');
      const related = `e${depth}`;
      const where = condition.where ? ` AND (${say(condition.where, found.table, catalogue, related, depth + 1)})` : '';
      return (
        `EXISTS (SELECT 1 FROM raw_${found.table.name} ${related} WHERE ${related}.${found.many.column} = ` +
        `${alias}.${found.many.targetColumn}${where})`
      );
    }
    case 'has':
      throw new Error('PostgreSQL has no sets');
  }
}

const factTypes: Record<string, string> = {
  id: 'int',
  organisation: 'text',
  'people.id': 'int',
  'people.n': 'int',
  'people.t': 'text',
  'people.d': 'date',
};

function sayOperand(operand: Operand, table: Table, catalogue: Catalogue, alias: string): string {
  switch (operand.kind) {
    case 'column': {
      if (operand.path.length === 1) return `${alias}.${operand.path[0]}`;
      const relation = table.relations.find((each) => each.name === operand.path[0])!;
      const target = catalogue.tables.find((each) => each.name === relation.table)!;
      const next = `${alias}_${relation.name}`;
      return (
        `(SELECT ${sayOperand({ kind: 'column', path: operand.path.slice(1) }, target, catalogue, next)} FROM ` +
        `raw_${target.name} ${next} WHERE ${next}.id = ${alias}.${relation.column})`
      );
    }
    case 'text':
      return literal(operand.text);
    case 'number':
      return operand.digits;
    case 'boolean':
      return operand.value ? 'TRUE' : 'FALSE';
    case 'member': {
      const fact = operand.fact.join('.');
      return `CAST(NULLIF(current_setting('judge.${fact.replace('.', '_')}', TRUE), '') AS ${factTypes[fact]})`;
    }
    case 'clock':
      return `DATE '${today}'`;
    case 'shifted':
      return (
        `(${sayOperand(operand.of, table, catalogue, alias)} ${operand.count < 0 ? '-' : '+'} INTERVAL ` +
        `'${Math.abs(operand.count)} ${operand.unit}')`
      );
    case 'record':
      throw new Error('no page here');
  }
}

/** The settings that carry a person's facts into the policies. */
export function factSettings(facts: Record<string, Value>): [string, string][] {
  return Object.keys(factTypes).map((fact) => [`judge.${fact.replace('.', '_')}`, String(facts[fact] ?? '')]);
}
