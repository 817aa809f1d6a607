import { findHistoryFaults, findUnkeptHistories } from './history-findings';
import { findHungFaults } from './hung-findings';
import { strictestMask, moreOpen } from '../access/lens';
import { maskTargets, originsOf, type PortalDefinition } from '../definition/definition';
import { maskLabel } from '../mask/mask';
import type { Catalogue, Table } from '../table/catalogue';
import type { Finding } from './finding';
import { within, type Granted } from './granted';
import type { PeopleFacts } from './people-facts';

/** Mistakes of a grant as a whole, and of one beside another. */
export function findGrantFaults(
  definition: PortalDefinition,
  catalogue: Catalogue,
  granted: readonly Granted[],
  people: PeopleFacts | null,
): Finding[] {
  return [
    ...granted.flatMap(exportWiderThanSeen),
    ...granted.flatMap(halfGrants),
    ...findHungFaults(granted),
    ...findHistoryFaults(definition, granted),
    ...findUnkeptHistories(definition, catalogue),
    ...granted.flatMap((each) => maskedAddresses(definition, each)),
    ...granted.flatMap((each) => unseenKeys(definition, each)),
    ...exceptions(definition, granted),
    ...(people ? besideWider(granted, people) : []),
  ];
}

function exportWiderThanSeen({ grant, lens, scope, role, table, place }: Granted): Finding[] {
  if (
    !lens?.export ||
    !grant.export ||
    grant.export.where === 'as seen' ||
    lens.rows === 'no row' ||
    within(lens.export, lens.rows, scope)
  )
    return [];
  return [
    {
      id: `export-wider/${table.name}/${role.id}`,
      kind: 'export wider than see',
      severity: 'broken',
      place,
      title: `${role.name} may export rows of ${table.name} that they may not see`,
      why:
        'What they see still holds: rows outside of it are not taken out either, so for those the right is ' +
        'empty, and whoever reads the rule thinks otherwise. Export what is seen.',
    },
  ];
}

function halfGrants({ grant, role, table, place }: Granted): Finding[] {
  const found: Finding[] = [];
  if (grant.see && grant.see.columns.length === 0 && table.columns.length > 0) {
    found.push({
      id: `rows-only/${table.name}/${role.id}`,
      kind: 'rows without columns',
      severity: 'broken',
      place,
      title: `${role.name} sees rows of ${table.name} and no column of them`,
      why: 'They learn how many there are, and nothing else. Show a column, or take the grant away.',
    });
  }
  const writes = [...(grant.edit?.columns ?? [])];
  if (writes.length > 0 && !grant.see) {
    found.push({
      id: `columns-only/${table.name}/${role.id}`,
      kind: 'columns without rows',
      severity: 'broken',
      place,
      title: `${role.name} may change ${writes.slice(0, 3).join(', ')} of ${table.name} and sees no row of it`,
      why:
        'Only what is in view can be changed, so this does nothing, unless another role of the same person shows ' +
        'the rows. Say which rows they see.',
    });
  }
  return found;
}

/** Unique columns that could be a record's address instead of its key: always filled, and masked for nobody. */
export function addressChoices(definition: PortalDefinition, table: Table): string[] {
  return table.columns
    .filter(
      (column) =>
        column.unique &&
        !column.nullable &&
        !table.key.includes(column.name) &&
        column.type !== 'other' &&
        !definition.masks.some((rule) => maskTargets(definition, rule, table, column.name)),
    )
    .map((column) => column.name);
}

/** What names a record stands in its address, in links and in lists: a mask on it hides nothing. */
function maskedAddresses(definition: PortalDefinition, { lens, role, table, place }: Granted): Finding[] {
  if (!lens || lens.rows === 'no row') return [];
  return table.key
    .filter((column) => lens.columns.get(column)?.level === 'masked')
    .map((column): Finding => ({
      id: `address/${table.name}/${role.id}/${column}`,
      kind: 'mask on the address',
      severity: 'leak',
      place: { ...place, column },
      title: `${table.name}.${column} is masked for ${role.name}, and is every record's address`,
      why:
        'Records are named by it, in links and in what a browser is sent, so whoever sees one reads it. ' +
        (addressChoices(definition, table).length > 0
          ? 'Let another unique column be the address.'
          : 'Give the table another unique column to be named by, or hide the records.'),
    }));
}

/** Where the key is a builder's word, nobody gets a record whose key they don't see whole: its address would say it. */
function unseenKeys(definition: PortalDefinition, { grant, role, table, place }: Granted): Finding[] {
  if (!grant.see || !table.keyByWord) return [];
  const columns = grant.see.columns;
  const hidden = table.key.filter((column) => !columns.includes(column));
  const masked = table.key.filter(
    (column) => columns.includes(column) && strictestMask(definition, table, column, role.id),
  );
  const lost = [...hidden, ...masked];
  if (lost.length === 0) return [];
  return [
    {
      id: `unseen-key/${table.name}/${role.id}`,
      kind: 'key is not seen',
      severity: 'broken',
      place: { ...place, column: lost[0], what: masked.length > 0 ? undefined : 'hidden' },
      title:
        `${role.name} sees nothing of ${table.name}, because ${lost.join(', ')}, by which its records are told ` +
        `apart, ${masked.length > 0 ? 'is masked for them' : 'is hidden from them'}`,
      why:
        "A record's address is its key, so whoever gets the record reads it. Show the key whole, or tell the " +
        'records apart by other columns.',
    },
  ];
}

/** For each mask that is for everyone but some: which columns those read whole. */
function exceptions(definition: PortalDefinition, granted: readonly Granted[]): Finding[] {
  return definition.masks.flatMap((rule) =>
    rule.to !== 'everyone'
      ? []
      : rule.exceptRoles.flatMap((id): Finding[] => {
          const open = granted
            .filter((each) => each.role.id === id && each.lens && each.lens.rows !== 'no row')
            .flatMap(({ table, lens }) =>
              table.columns
                .filter(
                  (column) =>
                    lens!.columns.get(column.name)?.level === 'shown' &&
                    originsOf(definition, table, column.name).length > 0 &&
                    maskTargets(definition, rule, table, column.name) &&
                    strictestMask(definition, table, column.name, id) === null,
                )
                .map((column) => `${table.name}.${column.name}`),
            );
          const role = definition.roles.find((each) => each.id === id);
          if (open.length === 0 || !role) return [];
          return [
            {
              id: `excepted/${rule.id}/${id}`,
              kind: 'mask with exceptions',
              severity: 'leak',
              place: { stage: 'access', role: id, what: rule.id },
              title:
                `${role.name} is excepted from the mask ${rule.id} (${maskLabel(rule.mask)}) and reads ` +
                `${open.length === 1 ? 'a column' : `${open.length} columns`} whole: ` +
                `${open.slice(0, 6).join(', ')}${open.length > 6 ? ` and ${open.length - 6} more` : ''}`,
              why:
                'A mask for everyone is easily thought to be for everyone. Say why this role is not meant, or ' +
                'take the exception back.',
            },
          ];
        }),
  );
}

/** A role that is narrower than another of the same persons everywhere on a table: what it narrows, the other opens. */
function besideWider(granted: readonly Granted[], people: PeopleFacts): Finding[] {
  return people.together.flatMap(([narrow, wide]) =>
    granted
      .filter((each) => each.role.id === narrow)
      .flatMap((one): Finding[] => {
        const other = granted.find((each) => each.role.id === wide && each.table === one.table);
        if (
          !other?.lens ||
          !one.lens ||
          one.lens.rows === 'no row' ||
          other.lens.rows === 'no row' ||
          one.lens.columns.size === 0
        )
          return [];
        const isWider =
          within(one.lens.rows, other.lens.rows, one.scope) &&
          [...one.lens.columns].every(
            ([column, openness]) => moreOpen(other.lens!.columns.get(column) ?? { level: 'hidden' }, openness) >= 0,
          );
        const isSame =
          within(other.lens.rows, one.lens.rows, one.scope) &&
          [...other.lens.columns].every(
            ([column, openness]) => moreOpen(one.lens!.columns.get(column) ?? { level: 'hidden' }, openness) >= 0,
          );
        if (!isWider || isSame) return [];
        return [
          {
            id: `beside/${one.table.name}/${narrow}/${wide}`,
            kind: 'narrow beside wide',
            severity: 'leak',
            place: one.place,
            title:
              `What ${one.role.name} sees of ${one.table.name} narrows nothing: everyone in that role is ` +
              `${other.role.name} too, who sees more`,
            why:
              'A person gets all that any of their roles gives. If the narrower rule is meant to hold for them, ' +
              'take the wider role from them, or narrow it as well.',
          },
        ];
      }),
  );
}
