import { findTable, type Catalogue } from '../table/catalogue';
import type { PortalDefinition } from './definition';
import { renamedCatalogue, type Renaming } from './renamed-catalogue';
import type { SectionSpecs } from './section';
import { translate } from './translate';

/**
 * Where a definition uses a table or column, each in words, each once. Found by giving it another name and seeing what
 * that changes.
 */
export function usesOf(
  definition: PortalDefinition,
  catalogue: Catalogue,
  specs: SectionSpecs,
  table: string,
  column?: string,
): string[] {
  if (!findTable(catalogue, table)) return [];
  const changed = translate(definition, catalogue, renamedCatalogue(catalogue, { table, column, to: '\u0001' }), specs);
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
  const notes = Object.entries(definition.tables);
  Object.values(changed.tables).forEach((after, i) => {
    const [of, before] = notes[i]!;
    for (const [id, filter] of Object.entries(before.filters ?? {}))
      compare(`the filter ${filter.name} of ${of}`, filter, after.filters?.[id]);
  });
  notes.forEach(([of, before], i) => {
    const after = Object.values(changed.tables)[i]?.rules;
    before.rules?.forEach((rule, n) => compare(`a rule of ${of} (${rule.id})`, rule, after?.[n]));
  });
  definition.rosters.forEach((roster, i) => compare(`the roster ${roster.table}`, roster, changed.rosters[i]));
  definition.masks.forEach((mask, i) => compare(`the mask ${mask.id}`, mask, changed.masks[i]));
  const sheets = Object.entries(definition.sheets);
  Object.values(changed.sheets).forEach((after, i) => {
    const [of, before] = sheets[i]!;
    if (of === table && column === undefined) uses.push(`the sheet of ${of}`);
    else compare(`the sheet of ${of}`, before, after);
  });
  definition.pages.forEach((page, i) => compare(`the page ${page.title}`, page, changed.pages[i]));
  definition.fences?.forEach((fence, i) => compare(`the fence ${fence.id}`, fence, changed.fences![i]));
  definition.stamps?.forEach((stamp, i) => compare(`the stamp ${stamp.id}`, stamp, changed.stamps![i]));
  definition.lifecycles?.forEach((lifecycle, i) =>
    compare(`the lifecycle of ${lifecycle.table}`, lifecycle, changed.lifecycles![i]),
  );
  definition.actions?.forEach((action, i) => compare(`the action ${action.name}`, action, changed.actions![i]));
  definition.forms?.forEach((form, i) => compare(`the form ${form.title}`, form, changed.forms![i]));
  definition.brought?.forEach((brought, i) =>
    compare(`what is brought, ${brought.name}`, brought, changed.brought![i]),
  );
  definition.signUps?.forEach((signUp, i) => compare(`the sign-up ${signUp.name}`, signUp, changed.signUps![i]));
  definition.stewards?.forEach((steward, i) =>
    compare(`what ${role(steward.role)} may do as steward (${steward.does})`, steward, changed.stewards![i]),
  );
  definition.promises?.forEach((promise, i) => compare(`the promise ${promise.id}`, promise, changed.promises![i]));
  return [...new Set(uses)];
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
  specs: SectionSpecs,
  table: string,
  column?: string,
): string[] {
  const known = findTable(catalogue, table);
  if (column === undefined ? known : known?.columns.some((each) => each.name === column)) return [];
  return usesOf(
    definition,
    withStray(catalogue, { table, ...(column === undefined ? {} : { column }) }),
    specs,
    table,
    column,
  );
}

/**
 * The definition with a name that leads nowhere replaced by another that leads nowhere: what was meant for something
 * that is gone is nobody else's.
 */
export function withoutStray(
  definition: PortalDefinition,
  catalogue: Catalogue,
  specs: SectionSpecs,
  stray: Renaming,
): PortalDefinition {
  const there = findTable(catalogue, stray.table);
  if (stray.column === undefined ? there : there?.columns.some((each) => each.name === stray.column)) return definition;
  const known = withStray(catalogue, stray);
  return translate(definition, known, renamedCatalogue(known, stray), specs);
}
