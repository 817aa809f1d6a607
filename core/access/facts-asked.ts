import type { Operand } from '../condition/tree';
import type { PortalDefinition } from '../definition/definition';

const known = new WeakMap<PortalDefinition, Map<string, string[][]>>();

/**
 * The facts of a definition's rules that relations lead to from a roster's rows: by the roster's table, each once, in
 * all their parts. Most definitions have none.
 */
export function factsAlong(definition: PortalDefinition, roster: string): readonly string[][] {
  let found = known.get(definition);
  if (!found) {
    found = find(definition);
    known.set(definition, found);
  }
  return found.get(roster) ?? [];
}

/** Wherever in the document an operand stands. */
function find(definition: PortalDefinition): Map<string, string[][]> {
  const facts = new Map<string, string[]>();
  const left: unknown[] = [definition];
  while (left.length > 0) {
    const part = left.pop();
    if (typeof part !== 'object' || part === null) continue;
    const operand = part as Partial<Operand>;
    if (operand.kind === 'member' && Array.isArray(operand.fact) && operand.fact.length > 2)
      facts.set(JSON.stringify(operand.fact), operand.fact);
    left.push(...Object.values(part));
  }
  const byRoster = new Map<string, string[][]>();
  for (const fact of facts.values()) byRoster.set(fact[0]!, [...(byRoster.get(fact[0]!) ?? []), fact]);
  return byRoster;
}
