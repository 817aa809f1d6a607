import type { LinkedList, Sheet, SheetGroup } from './definition';
import type { AskedOfTable, NewNames } from './section';
import type { Audience } from './section-kinds';

/** A sheet of a table's records under new names. */
export function renamedSheet(
  table: string,
  sheet: Sheet,
  names: Pick<NewNames, 'table' | 'path' | 'condition'>,
): Sheet {
  const whom = <T extends { audience?: Audience }>(part: T): Pick<T, 'audience'> =>
    part.audience?.where
      ? { audience: { ...part.audience, where: names.condition('', part.audience.where) } }
      : part.audience
        ? { audience: part.audience }
        : {};
  const path = (text: string) => names.path(table, text);
  return {
    ...sheet,
    columns: sheet.columns.map(path),
    ...(sheet.groups
      ? { groups: sheet.groups.map((group) => ({ ...group, columns: group.columns.map(path), ...whom(group) })) }
      : {}),
    ...(sheet.linked
      ? {
          linked: sheet.linked.map((linked) => ({
            ...linked,
            table: names.table(linked.table),
            column: names.path(linked.table, linked.column),
            columns: linked.columns.map((text) => names.path(linked.table, text)),
            ...(linked.figures
              ? {
                  figures: linked.figures.map((figure) => ({
                    ...figure,
                    column: names.path(linked.table, figure.column),
                  })),
                }
              : {}),
            ...whom(linked),
          })),
        }
      : {}),
  };
}

/** What a sheet asks of other tables. */
export function linkedAsks(sheet: Sheet | null): AskedOfTable[] {
  return (sheet?.linked ?? []).map(({ table, column, columns, figures = [] }) => ({
    table,
    shows: [...new Set([...columns, column, ...figures.map((figure) => figure.column)])],
    sorts: [],
    where: [],
    isAlong: true as const,
  }));
}

/** What a section asks by its records' sheet: its own, or the one that they have everywhere. */
export function sheetAsks(
  own: Sheet | undefined,
  everywhere: Sheet | null,
  beside: string[],
): { columns: string[] } & Pick<AskedOfTable, 'ofSheet' | 'limited'> {
  const sheet = own ?? everywhere;
  const alone = (path: string) => !beside.includes(path);
  return {
    columns: sheet?.columns ?? [],
    ...(own ? {} : { ofSheet: (everywhere?.columns ?? []).filter(alone) }),
    limited: limitedOn(sheet).filter(({ path }) => alone(path)),
  };
}

/** The columns of a sheet that only some roles get, by their groups. */
const limitedOn = (sheet: Sheet | null): NonNullable<AskedOfTable['limited']> =>
  (sheet?.groups ?? []).flatMap(({ columns, audience }) =>
    audience ? columns.map((path) => ({ path, roles: audience.roles })) : [],
  );

/** Every audience on a sheet, by the part that it is of. */
export function audiencesOfSheet(sheet: Sheet): { id: string; called: string; audience: Audience }[] {
  const told = (id: string, called: string, { audience }: SheetGroup | LinkedList) =>
    audience ? [{ id, called, audience }] : [];
  return [
    ...(sheet.groups ?? []).flatMap((group) => told(group.id, group.title, group)),
    ...(sheet.linked ?? []).flatMap((linked) => told(`${linked.table}/${linked.column}`, linked.table, linked)),
  ];
}

/** Columns that stand in no group of a sheet, in order. */
export const outsideGroups = ({ columns, groups = [] }: Sheet): string[] =>
  columns.filter((path) => !groups.some((group) => group.columns.includes(path)));

/** A sheet as it is for those of whom `isOf` says whose audience they are: without what is not for them. */
export function sheetFor(sheet: Sheet, isOf: (audience: Audience) => boolean): Sheet {
  const isFor = ({ audience }: SheetGroup | LinkedList) => audience === undefined || isOf(audience);
  const groups = (sheet.groups ?? []).filter(isFor);
  const others = (sheet.groups ?? []).filter((group) => !isFor(group)).flatMap(({ columns }) => columns);
  return {
    ...sheet,
    columns: sheet.columns.filter((path) => !others.includes(path)),
    ...(sheet.groups ? { groups } : {}),
    ...(sheet.linked ? { linked: sheet.linked.filter(isFor) } : {}),
  };
}

/** A sheet with its groups so; what stood in one that is gone stands outside groups. */
export function withGroups(before: Sheet, groups: SheetGroup[]): Sheet {
  const { groups: _was, ...sheet } = before;
  return {
    ...sheet,
    columns: [...outsideGroups({ ...sheet, groups }), ...groups.flatMap(({ columns }) => columns)],
    ...(groups.length > 0 ? { groups } : {}),
  };
}

/** A sheet with these columns in one of its groups, or outside them (null); each leaves where it stood before. */
export function placed(sheet: Sheet, group: string | null, columns: string[]): Sheet {
  const others = (paths: string[]) => paths.filter((path) => !columns.includes(path));
  const groups = (sheet.groups ?? []).map((each) => ({
    ...each,
    columns: each.id === group ? columns : others(each.columns),
  }));
  return withGroups({ ...sheet, columns: group === null ? columns : others(outsideGroups(sheet)) }, groups);
}
