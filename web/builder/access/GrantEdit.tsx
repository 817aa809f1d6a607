import { type RowFilter, columnLabel, type PortalDefinition, type Role } from '../../../core/definition/definition';
import { plainLabel, type Table } from '../../../core/table/catalogue';
import { useBench } from '../bench/bench-context';
import { ConditionEditor } from './ConditionEditor';
import { type PartProps, RowChoice, kindOf, KeepIn, Ticks } from './GrantParts';
import { canBeEdited } from './set-level';

export function Edit({ table, role, grant, change, begin }: PartProps) {
  const { draft } = useBench();
  const set = (where: RowFilter | 'as seen' | null) =>
    change(`Set which rows of ${table.name} ${role.name} edits`, ({ edit: old, ...others }) =>
      where === null ? others : { ...others, edit: { ...old, where, columns: old?.columns ?? [] } },
    );
  const part = grant.edit;
  const see = grant.see?.where;
  if (!grant.see)
    return (
      <p className="text-soft">Only rows that someone sees can be edited. Say first which rows {role.name} sees.</p>
    );
  const open = (part?.columns ?? []).map((name) => columnLabel(draft, table.name, name, plainLabel));
  const writable = (part?.columns ?? []).filter((name) => canBeEdited(table, name));
  return (
    <div className="grid gap-2">
      <p className="flex flex-wrap items-center gap-2">
        They change the editable columns{' '}
        <RowChoice
          name={`Rows that ${role.name} edits`}
          value={kindOf(part?.where)}
          words={{ none: 'never', seen: 'in every row they see', some: 'in rows where …', all: 'in every row' }}
          onChange={(choice) =>
            void set(
              choice === 'none'
                ? null
                : choice === 'seen'
                  ? 'as seen'
                  : choice === 'all'
                    ? 'every row'
                    : see !== undefined && see !== 'every row'
                      ? see
                      : begin(),
            )
          }
        />
        <span className="text-sm text-soft">
          {open.length === 0
            ? 'No column is editable yet: lay three courses on its stone.'
            : `editable: ${open.join(', ')}`}
        </span>
      </p>
      {part && part.where !== 'as seen' && part.where !== 'every row' && (
        <ConditionEditor table={table} role={role} name="Edit filter" value={part.where} onChange={set} />
      )}
      {part && (
        <KeepIn
          table={table}
          role={role}
          name="Keep-in after an edit"
          value={part.keepIn}
          like="the same as the edit filter"
          begin={begin}
          onChange={(keepIn) =>
            change(`Set what must hold after ${role.name} edits ${table.name}`, (old) => {
              const { keepIn: _was, ...rest } = old.edit!;
              return { ...old, edit: keepIn === undefined ? rest : { ...rest, keepIn } };
            })
          }
        />
      )}
      {part && writable.length > 0 && (
        <Ticks
          legend="May be written over unseen, where masked or hidden"
          table={table}
          names={writable}
          ticked={part.unseen ?? []}
          onChange={(tick) =>
            void change(`Set what ${role.name} may replace unseen in ${table.name}`, (old) => {
              const { unseen: was = [], ...rest } = old.edit!;
              const unseen = tick(was);
              return { ...old, edit: unseen.length === 0 ? rest : { ...rest, unseen } };
            })
          }
        />
      )}
    </div>
  );
}

/** Whether a stamp or the start of a lifecycle fills the column of a new record. */
export function isSet(draft: PortalDefinition, table: Table, role: Role, column: string): boolean {
  return (
    (draft.stamps ?? []).some(
      (stamp) =>
        stamp.table === table.name &&
        stamp.column === column &&
        stamp.on !== 'change' &&
        (stamp.to === 'everyone' || stamp.to.includes(role.id)),
    ) || (draft.lifecycles ?? []).some((lifecycle) => lifecycle.table === table.name && lifecycle.column === column)
  );
}
