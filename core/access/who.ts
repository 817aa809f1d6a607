import { maskLabel } from '../mask/mask';
import { dataClassOf, type DataClass, type PortalDefinition } from '../definition/definition';
import type { Catalogue, Table } from '../table/catalogue';
import { lensesOf, type Lens } from './lens';
import { opennessCases, viewOf, type View } from './view';
import { groupPeople, namedInMasks, rolesOf, type KnownPerson } from './people';
import { sideEffectsOn, type SideEffect } from './side-effects';
import { madeByActions, type MadeByAction } from './made-by-actions';
import type { Person } from './person';
import { rowsCondition } from './rows';
import { describeCondition } from '../condition/describe';

/** A column that is asked about. */
export interface AskedOf {
  table: string;
  column: string;
}

/** What somebody may do with a column in the rows that their rules let through. */
export interface Reach {
  /** The most that they see of it. */
  level: 'shown' | 'masked' | 'hidden';
  /** What stays, in words, where it is masked at most. */
  mask: string | null;
  edit: boolean;
  create: boolean;
  export: boolean;
  /** The roles that give them any of this. */
  through: string[];
  /** What they may do as stewards that gives it, by id. */
  stewards: string[];
  /** The actions by which they write it, by id. */
  actions: string[];
}

export interface WhoSees extends AskedOf {
  roles: { role: string; reach: Reach }[];
  /** Persons with the same reach. */
  people: { reach: Reach; people: { id: number | null; name: string }[] }[];
  /** Where it is told outside or by mail, and what writes it by itself. */
  effects: SideEffect[];
}

/** The columns of a data class, in the catalogue's order. */
export function columnsOfClass(definition: PortalDefinition, catalogue: Catalogue, dataClass: DataClass): AskedOf[] {
  return catalogue.tables.flatMap((table) =>
    table.columns
      .filter((column) => dataClassOf(definition, table, column.name) === dataClass)
      .map((column) => ({ table: table.name, column: column.name })),
  );
}

const nothing: Reach = {
  level: 'hidden',
  mask: null,
  edit: false,
  create: false,
  export: false,
  through: [],
  stewards: [],
  actions: [],
};

/**
 * Who sees a column whole or masked, edits, fills or exports it, and through which role: by the rules, whatever rows
 * there are. Those who reach nothing are left out.
 */
export function whoSees(
  definition: PortalDefinition,
  catalogue: Catalogue,
  people: readonly KnownPerson[],
  asked: readonly AskedOf[],
): WhoSees[] {
  const groups = groupPeople(people, (person) => rolesOf(definition, catalogue, person), [], namedInMasks(definition));
  const views = new Map<string, Views>();
  return asked.flatMap(({ table: name, column }): WhoSees[] => {
    const table = catalogue.tables.find((each) => each.name === name);
    if (!table?.columns.some((each) => each.name === column)) return [];
    const ofTable = views.get(name) ?? new Views(definition, catalogue, table);
    views.set(name, ofTable);
    const roles = definition.roles
      .map((role) => ({ role: role.id, reach: reachOn(ofTable.of([role.id], null), column, ofTable.made([role.id])) }))
      .filter((each) => reaches(each.reach));
    const persons = new Map<string, WhoSees['people'][number]>();
    for (const group of groups) {
      const reach = reachOn(ofTable.of(group.roles, group.email), column, ofTable.made(group.roles));
      if (!reaches(reach)) continue;
      const known = persons.get(JSON.stringify(reach)) ?? { reach, people: [] };
      for (const { id, name: called } of group.people) known.people.push({ id, name: called });
      persons.set(JSON.stringify(reach), known);
    }
    const effects = sideEffectsOn(definition, catalogue, { table: name, column });
    return [{ table: name, column, roles, people: [...persons.values()], effects }];
  });
}

/** All that one person reaches: each column of each table of which they reach anything. */
export function reachOf(
  definition: PortalDefinition,
  catalogue: Catalogue,
  person: Person,
): (AskedOf & { reach: Reach; rows: string })[] {
  return catalogue.tables.flatMap((table) => {
    const view = viewOf(definition, catalogue, table, person);
    const made = madeByActions(definition, catalogue, table.name, person.roles);
    return table.columns
      .map((column) => ({
        table: table.name,
        column: column.name,
        reach: reachOn(view, column.name, made),
        rows: rowsWords(view, column.name),
      }))
      .filter((each) => reaches(each.reach));
  });
}

/** In which rows a column is seen at all, as a sentence. */
export const rowsWords = ({ lenses }: View, column: string): string =>
  rowsOf(lenses.filter((lens) => lens.columns.has(column)));

/** Which rows lenses have, as a sentence. */
export function rowsOf(lenses: readonly Lens[]): string {
  const rules = lenses.flatMap(({ rows }) => (rows === 'no row' ? [] : [rowsCondition(rows)]));
  if (rules.length === 0) return 'no row';
  return rules.includes(null) ? 'every row' : [...new Set(rules.map((rule) => describeCondition(rule!)))].join('; or ');
}

function reaches(reach: Reach): boolean {
  return reach.level !== 'hidden' || reach.edit || reach.create;
}

/** The views of one table, put together of lenses that are each made once. */
export class Views {
  private readonly lenses = new Map<string, Lens[]>();
  private readonly makes = new Map<string, MadeByAction[]>();
  constructor(
    private readonly definition: PortalDefinition,
    private readonly catalogue: Catalogue,
    private readonly table: Table,
  ) {}

  /** `email` only for those whom a mask excepts by name. */
  of(roles: readonly string[], email: string | null): View {
    return { table: this.table, lenses: roles.flatMap((role) => this.lensesOf(role, email)) };
  }

  /** How these roles make records of it by actions. */
  made(roles: readonly string[]): MadeByAction[] {
    const key = JSON.stringify(roles);
    let made = this.makes.get(key);
    if (made === undefined) {
      made = madeByActions(this.definition, this.catalogue, this.table.name, roles);
      this.makes.set(key, made);
    }
    return made;
  }

  private lensesOf(role: string, email: string | null): Lens[] {
    const key = `${role}\n${email ?? ''}`;
    let lenses = this.lenses.get(key);
    if (lenses === undefined) {
      lenses = lensesOf(this.definition, this.catalogue, this.table, role, { email });
      this.lenses.set(key, lenses);
    }
    return lenses;
  }
}

/** What a view reaches of a column, beside what is made of it by actions. */
export function reachOn(view: View, column: string, made: readonly MadeByAction[]): Reach {
  const making = made.filter(({ make }) => make.fills.has(column));
  if (view.lenses.length === 0 && making.length === 0) return nothing;
  const setting = view.lenses.flatMap(({ role, actions }) =>
    actions.filter(({ writes }) => writes.has(column)).map(({ action }) => ({ role, action: action.id })),
  );
  const cases = opennessCases(view, column).filter((each) =>
    each.lenses.some((i) => view.lenses[i]!.rows !== 'no row'),
  );
  const [most] = cases;
  const giving = view.lenses.filter(
    (lens) => lens.columns.has(column) || lens.edit?.columns.has(column) || lens.create?.columns.has(column),
  );
  const isSeen = (i: number) => view.lenses[i]!.export !== null && view.lenses[i]!.columns.has(column);
  return {
    level: most ? (most.openness.level === 'shown' ? 'shown' : 'masked') : 'hidden',
    mask: most?.openness.level === 'masked' ? maskLabel(most.openness.mask) : null,
    edit:
      setting.length > 0 ||
      view.lenses.some(
        (lens) =>
          lens.edit?.columns.has(column) &&
          (lens.columns.get(column)?.level === 'shown' ||
            lens.edit.unseen.has(column) ||
            cases.some((each) => each.openness.level === 'shown')),
      ),
    create: making.length > 0 || view.lenses.some((lens) => lens.create?.columns.has(column)),
    export: view.lenses.some((_, i) => isSeen(i)),
    through: [
      ...new Set(
        [...giving.filter(({ steward }) => steward === undefined), ...setting, ...making].map(({ role }) => role),
      ),
    ],
    actions: [...new Set([...setting, ...making].map(({ action }) => action))],
    stewards: giving.flatMap(({ steward }) => steward ?? []),
  };
}
