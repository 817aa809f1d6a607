import { lensOf } from '../access/lens';
import { ownRows } from '../access/own-rows';
import { neededColumns } from '../access/view';
import { describeCondition } from '../condition/describe';
import type { Condition } from '../condition/tree';
import type { Grant, PortalDefinition } from '../definition/definition';
import { freeId } from '../definition/free-id';
import { findTable, type Catalogue } from '../table/catalogue';
import { branchesOf, withRightIds, wrongIdsIn } from './branch-findings';
import { orEmpty } from './empty-findings';
import type { Finding } from './finding';
import { addressChoices } from './grant-findings';
import { ownMarks } from './maker-findings';

/** A way to mend a finding: what is done to the draft. */
export interface Mend {
  words: string;
  change: (draft: PortalDefinition) => void;
}

/** The mends of a finding that are certain enough to be offered; none where only a person can tell what is meant. */
export function mendsOf(finding: Finding, definition: PortalDefinition, catalogue: Catalogue): Mend[] {
  const { table: name, role, column, what, page } = finding.place;
  const table = name === undefined ? undefined : findTable(catalogue, name);
  const grant = name !== undefined && role !== undefined ? definition.access[name]?.[role] : undefined;
  const set = (words: string, change: (grant: Grant) => void): Mend => ({
    words,
    change: (draft) => {
      const found = draft.access[name!]?.[role!];
      if (found) change(found);
    },
  });
  const without = (names: readonly string[], gone: readonly string[]) => names.filter((each) => !gone.includes(each));
  const unedited = (words: string) =>
    set(words, (next) => {
      if (next.edit) next.edit.columns = without(next.edit.columns, [column!]);
    });
  if (finding.kind === 'page sorts by a mask')
    return [
      {
        words: 'List them by the key',
        change: (draft) => {
          for (const section of draft.pages.find((each) => each.id === page)?.sections ?? [])
            if ('sort' in section) section.sort = [];
        },
      },
    ];
  if (finding.kind === 'role without members') return [];
  if (finding.kind === 'fence is missing') {
    const like = definition.fences?.find((fence) => fence.id === what);
    return like
      ? [
          {
            words: `Fence ${name} the same way`,
            change: (draft) => {
              draft.fences!.push({
                ...structuredClone(like),
                table: name!,
                id: freeId(`${name}-fence`, draft.fences!),
              });
            },
          },
        ]
      : [];
  }
  if (finding.kind === 'mask with exceptions')
    return [
      {
        words: 'Take the exception back',
        change: (draft) => {
          for (const rule of draft.masks)
            if (rule.id === what) rule.exceptRoles = rule.exceptRoles.filter((each) => each !== role);
        },
      },
    ];
  if (finding.kind === 'mask on the address' && table)
    return addressChoices(definition, table)
      .slice(0, 3)
      .map((each) => ({
        words: `Name its records by ${each}`,
        change: (draft) => {
          draft.tables[name!] = { ...draft.tables[name!], address: each };
        },
      }));
  if (finding.kind === 'key does not tell apart')
    return [
      {
        words: 'Take the key off',
        change: (draft) => {
          delete draft.tables[name!]?.key;
        },
      },
    ];
  if (!table || !grant || role === undefined) return [];
  const lens = lensOf(definition, catalogue, table, role);
  switch (finding.kind) {
    case 'everyone reads everything': {
      const like = grant.edit && typeof grant.edit.where === 'object' ? grant.edit.where : null;
      return like
        ? [
            set('See what they may edit', (next) => {
              next.see!.where = structuredClone(like);
            }),
          ]
        : ownRows(definition, catalogue, table, role).map((where) =>
            set(`Only where ${describeCondition(where)}`, (next) => {
              next.see!.where = where;
            }),
          );
    }
    case 'masked but editable':
      return [
        unedited('Take it from what they edit'),
        set('Let it be replaced unseen', (next) => {
          next.edit!.unseen = [...new Set([...(next.edit!.unseen ?? []), column!])];
        }),
      ];
    case 'branch without the member':
      return [
        set('Take it out', (next) => {
          const branches = branchesOf(next.see!.where as Condition).filter((_, i) => String(i) !== what);
          next.see!.where = branches.length === 1 ? branches[0]! : { kind: 'any', parts: branches };
        }),
      ];
    case 'another number':
      return wrongIdsIn(definition, catalogue, table, grant[what as 'see']!.where as Condition)
        .filter((each) => each.column === column)
        .slice(0, 1)
        .map(({ fact }) =>
          set(`Compare with :member.${fact.join('.')}`, (next) => {
            const part = next[what as 'see']!;
            part.where = withRightIds(part.where as Condition, column!, fact);
          }),
        );
    case 'export wider than see':
      return [
        set('Export what they see', (next) => {
          next.export!.where = 'as seen';
        }),
      ];
    case 'rows without columns':
      return [
        set('Take the grant away', (next) => {
          delete next.see;
          delete next.export;
          delete next.comments;
          delete next.files;
          delete next.history;
        }),
      ];
    case 'key is not seen':
      return what === 'hidden'
        ? [
            set(`Show ${table.key.join(', ')}`, (next) => {
              next.see!.columns = [...new Set([...next.see!.columns, ...table.key])];
            }),
          ]
        : [];
    case 'columns without rows':
      return [
        set('Take the right to change away', (next) => {
          delete next.edit;
        }),
      ];
    case 'empty values fall out':
      return [
        set(`Say "or ${column} is empty"`, (next) => {
          next.see!.where = orEmpty(next.see!.where as Condition, column!);
        }),
      ];
    case 'edit wider than see':
      return [
        set('Edit every row they see', (next) => {
          next.edit!.where = 'as seen';
        }),
      ];
    case 'filter is always true':
      return what === 'see'
        ? [
            set('Say every row', (next) => {
              next.see!.where = 'every row';
            }),
          ]
        : [];
    case 'filter is never true':
      return what === 'edit' || what === 'delete' || what === 'export'
        ? [
            set(`Take ${what} away`, (next) => {
              delete next[what];
            }),
          ]
        : [];
    case 'required column nobody fills': {
      const missing = neededColumns(table).filter((each) => !grant.create!.columns.includes(each));
      return [
        set(`Let them fill ${missing.join(', ')}`, (next) => {
          next.create!.columns = table.columns
            .map((each) => each.name)
            .filter((each) => next.create!.columns.includes(each) || missing.includes(each));
        }),
      ];
    }
    case 'maker leaves no mark': {
      const mark = lens?.create && ownMarks(lens.create.keepIn).find((each) => each.column === column);
      return mark
        ? [
            {
              words: `Stamp ${column} when one is made`,
              change: (draft) => {
                (draft.stamps ??= []).push({
                  id: freeId(`${name}-maker`, draft.stamps),
                  table: name!,
                  column: column!,
                  on: 'create',
                  value: structuredClone(mark.fact) as never,
                  to: [role],
                });
              },
            },
          ]
        : [];
    }
    case "maker can't see it":
      return [
        set('Keep new records to what they see', (next) => {
          if (next.see) next.create!.keepIn = structuredClone(next.see.where);
        }),
      ];
    case 'edit moves it out of reach':
      return [
        set('Keep to the edit filter', (next) => {
          delete next.edit!.keepIn;
        }),
      ];
    case 'own mark can be changed':
      return [unedited('Show it only')];
    case 'rights can be written':
      if (finding.place.screen === '!actions')
        return [
          {
            words: 'Let the action not write it',
            change: (draft) => {
              for (const step of draft.actions?.find(({ id }) => id === what)?.steps ?? [])
                if (step.kind === 'set') delete step.values[column!];
            },
          },
        ];
      return what === 'edit'
        ? [unedited('Show it only')]
        : [
            set('Let them not fill it', (next) => {
              next.create!.columns = without(next.create!.columns, [column!]);
            }),
          ];
    case 'visitor writes':
      return [
        set('Let visitors add at most', (next) => {
          delete next.edit;
          delete next.delete;
        }),
      ];
    case 'visitor sees personal data':
      return [
        set('Hide it', (next) => {
          next.see!.columns = without(next.see!.columns, [column!]);
        }),
      ];
    case 'unique column tells':
      // Where an action asks for it, only a person can tell what else it should do.
      if (finding.place.screen) return [];
      return [
        set('Let nobody fill it here', (next) => {
          if (next.edit) next.edit.columns = without(next.edit.columns, [column!]);
          if (next.create) next.create.columns = without(next.create.columns, [column!]);
        }),
      ];
    case 'ceiling makes it void':
      return [
        set('Take it out of the grant', (next) => {
          for (const operation of ['create', 'edit', 'delete', 'export'] as const)
            if (table.ceiling?.[operation] === false) delete next[operation];
          for (const [each, may] of Object.entries(table.ceiling?.columns ?? {})) {
            if (may === 'nothing' && next.see) next.see.columns = without(next.see.columns, [each]);
            if (next.edit) next.edit.columns = without(next.edit.columns, [each]);
            if (next.create) next.create.columns = without(next.create.columns, [each]);
          }
        }),
      ];
    default:
      return [];
  }
}
