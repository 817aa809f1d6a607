import { rolesNamed } from '../access/public-pages';
import { lensesOf, type Lens } from '../access/lens';
import type { Page, PortalDefinition } from '../definition/definition';
import { askedByPage, type SectionSpecs } from '../definition/section';
import { rolesOn } from './page-roles';
import { readPath } from '../definition/path';
import { crossingsFrom, withCrossings } from '../definition/sources';
import { findTable, isPathProblem, resolvePath, type Catalogue } from '../table/catalogue';
import type { Finding } from './finding';

/**
 * One thing that must be seen so that a column of a page is: a relation's column on the way, the rows that it leads to,
 * or the column itself.
 */
interface Needed {
  table: string;
  /** Absent where only some rows are needed. */
  column?: string;
  /** True where it is followed, for which a masked value won't do. */
  whole: boolean;
}

/**
 * Sections that show nothing, and columns that are listed for roles that don't see them, by themselves or on the way to
 * them.
 */
export function findPages(
  definition: PortalDefinition,
  whole: Catalogue,
  specs: SectionSpecs,
  isAway: (table: string) => boolean,
): Finding[] {
  const catalogue = withCrossings(definition, whole);
  const name = (role: string) => definition.roles.find((each) => each.id === role)?.name ?? role;
  // Made once for each role and table, since every column of every section asks for them.
  const made = new Map<string, Lens[]>();
  const seeingLenses = (role: string, tableName: string): Lens[] => {
    const key = JSON.stringify([role, tableName]);
    const known = made.get(key);
    if (known) return known;
    const table = findTable(whole, tableName);
    const lenses = table ? lensesOf(definition, whole, table, role).filter(({ rows }) => rows !== 'no row') : [];
    made.set(key, lenses);
    return lenses;
  };
  const sees = (role: string, { table, column, whole: unmasked }: Needed): boolean => {
    return seeingLenses(role, table).some((lens) => {
      const level = column === undefined ? 'shown' : lens.columns.get(column)?.level;
      return level === 'shown' || (!unmasked && level === 'masked');
    });
  };
  const pages = definition.pages.flatMap((page) =>
    askedByPage(page, definition, specs)
      .filter(({ asked }) => !isAway(asked.table) && !asked.isAlong)
      .flatMap(({ section, asked }): Finding[] => {
        const roles = rolesOn(page, section, definition);
        const place = { stage: 'pages' as const, page: page.id };
        const readers = roles.filter((role) => sees(role, { table: asked.table, whole: false }));
        const empty = roles
          .filter((role) => !readers.includes(role))
          .map((role): Finding => ({
            id: `page/${page.id}/${role}/${asked.table}`,
            kind: 'page shows nothing',
            severity: 'broken',
            place,
            title: `${page.title} is for ${name(role)}, who sees nothing of ${asked.table}`,
            why: 'The page would be empty for them. Grant the table under Access, or take the role off the page.',
          }));
        if (readers.length === 0) return empty;
        // What their records show everywhere is held against the sheet, once, below.
        const own = asked.shows.filter((text) => !asked.ofSheet?.includes(text));
        const columns = own.flatMap((text) => {
          const needed = neededFor(definition, catalogue, asked.table, text, isAway);
          return needed === 'away' ? [] : [{ text, needed }];
        });
        const lost = columns.flatMap(({ text, needed }) => {
          const nobody = needed === null ? undefined : needed.find((each) => !readers.some((role) => sees(role, each)));
          return needed === null || nobody ? [nobodySees(page, asked.table, text, nobody)] : [];
        });
        const isFor = (role: string, text: string) =>
          (asked.limited ?? []).every(
            ({ path, roles: whom }) => path !== text || rolesNamed(whom, definition).includes(role),
          );
        const partly = readers.flatMap((role): Finding[] => {
          const missing = columns.find(
            ({ text, needed }) =>
              isFor(role, text) &&
              needed?.some((each) => !sees(role, each)) &&
              !lost.some((each) => each.id.endsWith(`/${text}`)),
          );
          return missing
            ? [
                {
                  id: `page/${page.id}/${role}/${asked.table}`,
                  kind: 'page shows nothing',
                  severity: 'broken',
                  place,
                  title: `${page.title} lists ${asked.table}.${missing.text}, which ${name(role)} doesn't see`,
                  why: 'The column is left out for them. Show it under Access, or take it off the page.',
                },
              ]
            : [];
        });
        const veiled = (asked.reckons ?? []).flatMap((text) => {
          const needed = neededFor(definition, catalogue, asked.table, text, isAway);
          const last = needed === 'away' ? undefined : needed?.at(-1);
          return readers
            .filter((role) => last && sees(role, last) && !sees(role, { ...last, whole: true }))
            .map((role): Finding => ({
              id: `page-masked/${page.id}/${section.id}/${role}/${text}`,
              kind: 'page shows nothing',
              severity: 'broken',
              place,
              title: `${page.title} reckons with ${asked.table}.${text}, which ${name(role)} sees masked`,
              why:
                'Masked values are left out of numbers, so there is none for them. Show it under Access, or reckon ' +
                'with another column.',
            }));
        });
        return [...empty, ...lost, ...partly, ...veiled];
      }),
  );
  const sheets = Object.entries(definition.sheets).flatMap(([table, sheet]) =>
    sheet.columns.flatMap((text): Finding[] => {
      const needed = isAway(table) ? 'away' : neededFor(definition, catalogue, table, text, isAway);
      const whom = sheet.groups?.find(({ columns }) => columns.includes(text))?.audience?.roles;
      const roles = whom ? rolesNamed(whom, definition) : definition.roles.map(({ id }) => id);
      const isSeen = (by: Needed[]) => roles.some((role) => by.every((each) => sees(role, each)));
      return needed === 'away' || (needed && isSeen(needed)) ? [] : [nobodySeesOnSheet(table, text, needed === null)];
    }),
  );
  return [...pages, ...sheets];
}

function nobodySeesOnSheet(table: string, text: string, isGone: boolean): Finding {
  return {
    id: `sheet-column/${table}/${text}`,
    kind: 'page column nobody sees',
    severity: 'broken',
    // A sheet stands under the name of its table, with a sign before it.
    place: { stage: 'pages', page: `~${table}` },
    title: `A record of ${table} shows ${text}, which none of the roles that it is for sees`,
    why: isGone
      ? 'There is no such column any more. Take it off the sheet.'
      : 'It is left out for everyone. Show it under Access, or take it off the sheet.',
  };
}

/** Null where the path leads nowhere. */
function neededFor(
  definition: PortalDefinition,
  catalogue: Catalogue,
  tableName: string,
  text: string,
  isAway: (table: string) => boolean,
): Needed[] | 'away' | null {
  const table = findTable(catalogue, tableName);
  const path = readPath(text);
  if (!table || !path) return null;
  const found = resolvePath(catalogue, table, path);
  if (isPathProblem(found))
    return crossingsFrom(definition, found.table).some(
      (relation) => relation.name === found.part && isAway(relation.table),
    )
      ? 'away'
      : null;
  const needed: Needed[] = [];
  let at = table;
  for (const step of found.steps) {
    needed.push({ table: at.name, column: step.column, whole: true });
    at = findTable(catalogue, step.table)!;
    needed.push(
      at.key.includes(step.targetColumn)
        ? { table: at.name, whole: false }
        : { table: at.name, column: step.targetColumn, whole: true },
    );
  }
  return [...needed, { table: at.name, column: found.column.name, whole: false }];
}

function nobodySees(page: Page, table: string, text: string, needed: Needed | undefined): Finding {
  const isOwn = !needed || (needed.column !== undefined && text.split('.').at(-1) === needed.column);
  return {
    id: `page-column/${page.id}/${table}/${text}`,
    kind: 'page column nobody sees',
    severity: 'broken',
    place: { stage: 'pages', page: page.id },
    title: `${page.title} lists ${table}.${text}, which none of the roles that it is for sees`,
    why: !needed
      ? 'There is no such column any more. Take it off the page.'
      : isOwn
        ? 'The column is left out for everyone. Show it under Access, or take it off the page.'
        : `It is looked up through ${needed.table}${needed.column === undefined ? '' : `.${needed.column}`}, ` +
          'which must be shown to them too. Show that under Access, or take the column off the page.',
  };
}
