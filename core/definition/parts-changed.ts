import type { PortalDefinition } from './definition';

/** What a definition is made of, part by part, each with an id or a name of its own. */
export const partKinds = [
  'role',
  'access',
  'roster',
  'page',
  'form',
  'action',
  'lifecycle',
  'mask',
  'fence',
  'stamp',
  'promise',
  'steward',
  'sign-up',
  'address',
  'table',
  'setting',
] as const;
type PartKind = (typeof partKinds)[number];

/** One part that is another than it was. */
export interface PartChange {
  kind: PartKind;
  id: string;
  /** What it is called, as it is now, or was. */
  name: string;
  change: 'new' | 'gone' | 'changed';
  /** Of a changed one, what of it: the names of its properties. */
  of: string[];
}

type Properties = Record<string, unknown>;
type Parts = Map<string, { name: string; what: object }>;

const byId = <T extends { id: string }>(all: readonly T[] | undefined, nameOf: (one: T) => string): Parts =>
  new Map((all ?? []).map((one) => [one.id, { name: nameOf(one), what: one }]));

const named = ({ name }: { name: string }): string => name;
const titled = ({ title }: { title: string }): string => title;
type Placed = { table?: string; column?: string; dataClass?: string };
const placed = (of: Placed): string => (of.column === undefined ? (of.dataClass ?? '') : `${of.table}.${of.column}`);

/** The parts of a definition by their ids. */
function partsOf(definition: PortalDefinition, kind: PartKind): Parts {
  const { portal, signIn, sheets, tables } = definition;
  switch (kind) {
    case 'role':
      return byId(definition.roles, named);
    case 'access':
      return new Map(
        Object.entries(definition.access).flatMap(([table, grants]) =>
          Object.entries(grants).map(([role, what]) => [`${table} ${role}`, { name: `of ${role} to ${table}`, what }]),
        ),
      );
    case 'roster':
      return new Map(definition.rosters.map((roster) => [roster.table, { name: roster.table, what: roster }]));
    case 'page':
      return byId(definition.pages, titled);
    case 'form':
      return byId(definition.forms, titled);
    case 'action':
      return byId(definition.actions, named);
    case 'lifecycle':
      return new Map((definition.lifecycles ?? []).map((each) => [each.table, { name: each.table, what: each }]));
    case 'mask':
      return byId(definition.masks, placed);
    case 'fence':
      return byId(definition.fences, ({ table }) => table);
    case 'stamp':
      return byId(definition.stamps, placed);
    case 'promise':
      return byId(definition.promises, ({ table }) => table);
    case 'steward':
      return byId(definition.stewards, ({ id }) => id);
    case 'sign-up':
      return byId(definition.signUps, ({ id }) => id);
    case 'address':
      return byId(definition.addresses, named);
    case 'table':
      return new Map(
        [...new Set([...Object.keys(tables), ...Object.keys(sheets)])].map((name) => [
          name,
          { name, what: { ...tables[name], ...(sheets[name] ? { sheet: sheets[name] } : {}) } },
        ]),
      );
    case 'setting':
      return new Map(Object.entries({ portal, signIn }).map(([id, what]) => [id, { name: id, what: what ?? {} }]));
  }
}

/** What of one definition is another in a second, part by part, in the order of their kinds. */
export function partsChanged(before: PortalDefinition, after: PortalDefinition): PartChange[] {
  return partKinds.flatMap((kind) => {
    const [was, is] = [partsOf(before, kind), partsOf(after, kind)];
    return [...new Set([...is.keys(), ...was.keys()])].flatMap((id): PartChange[] => {
      const [old, now] = [was.get(id), is.get(id)];
      if (!old) return [{ kind, id, name: now!.name, change: 'new', of: [] }];
      if (!now) return [{ kind, id, name: old.name, change: 'gone', of: [] }];
      const of = differing(old.what as Properties, now.what as Properties);
      return of.length === 0 ? [] : [{ kind, id, name: now.name, change: 'changed', of }];
    });
  });
}

/** Both are JSON, and a definition is always written in the same order. */
const differing = (a: Properties, b: Properties): string[] =>
  [...new Set([...Object.keys(a), ...Object.keys(b)])].filter(
    (key) => JSON.stringify(a[key]) !== JSON.stringify(b[key]),
  );
