import { memberFacts } from '../../../core/condition/operand-kind';
import type { PortalDefinition } from '../../../core/definition/definition';
import { findTable, type Catalogue, type Table } from '../../../core/table/catalogue';

/** Words that can stand where the caret is, and from where on they take the place of what is typed. */
export interface Completions {
  from: number;
  words: string[];
}

const atMost = 8;

const words = [
  'AND',
  'OR',
  'NOT',
  'IN',
  'BETWEEN',
  'LIKE',
  'IS NULL',
  'IS NOT NULL',
  'EXISTS',
  'TRUE',
  'FALSE',
  ':today',
  ':now',
  ':member.',
];

/**
 * Goes on with the word before the caret: columns and relations along a path, facts of the member after `:member.`,
 * choices within quotes, and the language's own words.
 */
export function completions(
  text: string,
  caret: number,
  draft: Pick<PortalDefinition, 'rosters'>,
  catalogue: Catalogue,
  table: Table,
): Completions {
  const before = text.slice(0, caret);
  const quoted = /([a-z_][\w.]*)\s*(?:=|<>|IN\s*\([^()]*)\s*'([^']*)$/i.exec(before);
  if (quoted) {
    const typed = quoted[2]!;
    const at = walk(catalogue, table, quoted[1]!.split('.').slice(0, -1));
    const choices = at?.columns.find((column) => column.name === quoted[1]!.split('.').at(-1))?.choices ?? [];
    return {
      from: caret - typed.length,
      words: choices
        .filter((choice) => choice.toLowerCase().startsWith(typed.toLowerCase()) && choice !== typed)
        .map((choice) => `${choice}'`)
        .slice(0, atMost),
    };
  }
  if ((before.match(/'/g) ?? []).length % 2 === 1) return { from: caret, words: [] };
  const typed = /:?[a-z_][\w.]*$|:$/i.exec(before)?.[0] ?? '';
  const member = /^:member\.((?:\w+\.)*)(\w*)$/.exec(typed);
  if (member) {
    const [roster, ...way] = member[1]!.split('.').slice(0, -1);
    if (roster === undefined)
      return fitting([...memberFacts.keys(), ...draft.rosters.map((each) => `${each.table}.`)], member[2]!, caret);
    const own = draft.rosters.some((each) => each.table === roster) ? findTable(catalogue, roster) : undefined;
    const at = own && walk(catalogue, own, way);
    const names = [
      ...(at?.columns ?? []).map((column) => column.name),
      ...(at?.relations ?? []).map((relation) => `${relation.name}.`),
    ];
    return fitting(names, member[2]!, caret);
  }
  const parts = typed.split('.');
  const rest = parts.pop()!;
  const at = walk(catalogue, table, parts);
  if (!at || (typed === '' && !/(^|[\s(])$/.test(before))) return { from: caret, words: [] };
  const names = [
    ...at.columns.filter((column) => column.type !== 'other').map((column) => column.name),
    ...at.relations.map((relation) => `${relation.name}.`),
    ...(parts.length === 0 && rest !== '' ? words : []),
  ];
  return typed === '' ? { from: caret, words: [] } : fitting(names, rest, caret);
}

function fitting(names: string[], typed: string, caret: number): Completions {
  const fit = names.filter((name) => name.toLowerCase().startsWith(typed.toLowerCase()) && name !== typed);
  return { from: caret - typed.length, words: [...new Set(fit)].slice(0, atMost) };
}

function walk(catalogue: Catalogue, table: Table, path: string[]): Table | null {
  return path.reduce<Table | null>((at, part) => {
    const relation = at?.relations.find((each) => each.name === part);
    // Inside EXISTS a path begins with the name of the related records.
    const many = at?.many?.find((each) => each.name === part);
    return relation
      ? (findTable(catalogue, relation.table) ?? null)
      : many
        ? (findTable(catalogue, many.table) ?? null)
        : null;
  }, table);
}
