import { lazy, Suspense } from 'react';
import { counted } from '../../../core/text/counted';
import type { Condition } from '../../../core/condition/tree';
import { describeCondition } from '../../../core/condition/describe';
import { neededColumns } from '../../../core/access/view';
import type { Grant, Role, RowFilter } from '../../../core/definition/definition';
import type { Table } from '../../../core/table/catalogue';
import { Button } from '../../ui/Button';
import { Skeleton } from '../../ui/Notice';
import { useAddress } from '../bench/address';
import { useBench } from '../bench/bench-context';
import { likelyRows, ownRows } from '../../../core/access/own-rows';
import { firstCondition } from './choices';
import { ConditionEditor } from './ConditionEditor';
import type { HungGrant } from '../../../core/definition/hung';
import { ColumnLevel } from './ColumnLevel';
import { canBeEdited, setGrant } from './set-level';
import { type Change, type PartProps, RowChoice, kindOf, KeepIn, Ticks } from './GrantParts';
import { GrantHistory } from './GrantHistory';
import { Edit, isSet } from './GrantEdit';
import { useNames, useNaming } from '../bench/names';
import { Named } from '../bench/Named';

const GrantHung = lazy(() => import('./GrantHung'));

const operations = ['see', 'create', 'edit', 'delete', 'export', 'comments', 'files', 'history'] as const;

type Operation = (typeof operations)[number];

/** What one role may do on the table: for each operation which rows and columns, and the level of the chosen column. */
export default function GrantEditor({ table, role, column }: { table: Table; role: Role; column: string | null }) {
  const { draft, catalogue, edit } = useBench();
  const [params, setAddress] = useAddress();
  const asked = params.get('do');
  const operation: Operation = operations.find((each) => each === asked) ?? 'see';
  const grant: Grant = draft.access[table.name]?.[role.id] ?? {};
  const own = ownRows(draft, catalogue, table, role.id);
  const suggestions = [...own, ...likelyRows(draft, catalogue, table, role.id)];
  const change: Change = (label, recipe) => edit(label, (next) => setGrant(next, table.name, role.id, recipe));
  const begin = (): Condition => own[0] ?? firstCondition(table);
  const goTo = (next: Operation) => setAddress((address) => address.set('do', next));
  const names = useNames();
  return (
    <section aria-label={`${role.name} on ${table.name}`} className="grid gap-3 p-4">
      {column && <ColumnLevel table={table} role={role} column={column} />}
      <div className="flex flex-wrap items-center gap-1" role="group" aria-label="Operation">
        <h2 className="mr-3">
          {role.name} on <Named label={names.table(table.name)} raw={table.name} />
        </h2>
        {operations.map((each) => (
          <button
            key={each}
            type="button"
            aria-pressed={each === operation}
            onClick={() => goTo(each)}
            className={
              'rounded-stone border px-2.5 py-0.5 text-sm ' +
              `${each === operation ? 'border-night bg-night text-white' : 'border-line-strong bg-paper hover:bg-sunk'}`
            }
          >
            <span className="font-semibold">{each}</span>{' '}
            <span className={each === operation ? '' : 'text-soft'}>{stateOf(grant, each)}</span>
          </button>
        ))}
      </div>
      {operation === 'see' && (
        <See table={table} role={role} grant={grant} change={change} suggestions={suggestions} begin={begin} />
      )}
      {operation === 'create' && <Create table={table} role={role} grant={grant} change={change} begin={begin} />}
      {operation === 'edit' && <Edit table={table} role={role} grant={grant} change={change} begin={begin} />}
      {(operation === 'comments' || operation === 'files') && (
        <Suspense fallback={<Skeleton lines={4} />}>
          <GrantHung what={operation} table={table} role={role} grant={grant} change={change} />
        </Suspense>
      )}
      {operation === 'history' && <GrantHistory table={table} role={role} grant={grant} change={change} />}
      {(operation === 'delete' || operation === 'export') && (
        <Whole
          key={operation}
          table={table}
          role={role}
          grant={grant}
          operation={operation}
          change={change}
          begin={begin}
        />
      )}
    </section>
  );
}

function stateOf(grant: Grant, operation: Operation): string {
  if (operation === 'comments' || operation === 'files') return sayCircles(grant[operation]);
  if (operation === 'history') return grant.history ? 'read' : 'none';
  const where =
    operation === 'create'
      ? grant.create
        ? counted(grant.create.columns.length, 'column')
        : null
      : operation === 'see'
        ? (grant.see?.where ?? null)
        : (grant[operation]?.where ?? null);
  if (where === null) return operation === 'see' ? 'no row' : 'never';
  return typeof where === 'string' ? where : 'where …';
}

const sayCircles = (own: HungGrant | undefined): string =>
  [own?.forAll && 'for all', own?.amongUs && 'among us'].filter(Boolean).join(', ') || 'none';

function See({
  table,
  role,
  grant,
  change,
  suggestions,
  begin,
}: PartProps & { suggestions: ReturnType<typeof ownRows> }) {
  const set = (where: RowFilter) =>
    change(`Set which rows of ${table.name} ${role.name} sees`, (old) => ({
      ...old,
      see: { where, columns: old.see?.columns ?? [] },
    }));
  const where = grant.see?.where;
  const naming = useNaming();
  return (
    <div className="grid gap-2">
      <p className="flex flex-wrap items-center gap-2">
        They see{' '}
        <RowChoice
          name={`Rows that ${role.name} sees`}
          value={kindOf(where)}
          words={{ none: 'nothing', some: 'rows where …', all: 'every row' }}
          onChange={(choice) =>
            void (choice === 'none'
              ? change(`Take ${table.name} from ${role.name}`, () => null)
              : set(choice === 'all' ? 'every row' : begin()))
          }
        />
      </p>
      {where === undefined && suggestions.length > 0 && (
        <div className="flex flex-wrap gap-2">
          {suggestions.map((suggestion, i) => (
            <Button key={i} small onClick={() => void set(suggestion)}>
              Only where {describeCondition(suggestion, naming(table.name))}
            </Button>
          ))}
        </div>
      )}
      {where === 'every row' && (
        <p className="text-sm font-medium text-iron">
          Without a row filter each {role.name} reads all of {table.name}.
        </p>
      )}
      {where !== undefined && where !== 'every row' && (
        <ConditionEditor table={table} role={role} name="See filter" value={where} onChange={set} />
      )}
    </div>
  );
}

function Create({ table, role, grant, change, begin }: PartProps) {
  const { draft } = useBench();
  const names = table.columns.filter((column) => !column.automatic).map((column) => column.name);
  const part = grant.create;
  // To begin with what they edit or see, and what a record can't be made without.
  const begun = new Set([
    ...(grant.edit?.columns ?? grant.see?.columns.filter((name) => canBeEdited(table, name)) ?? []),
    ...neededColumns(table).filter((name) => !isSet(draft, table, role, name)),
  ]);
  const allow = (may: boolean) =>
    change(
      `${may ? 'Let' : 'Stop'} ${role.name} ${may ? 'make' : 'making'} ${table.name}`,
      ({ create: _was, ...others }) =>
        may ? { ...others, create: { columns: names.filter((name) => begun.has(name)) } } : others,
    );
  return (
    <div className="grid gap-2">
      <p className="flex flex-wrap items-center gap-2">
        They make new records{' '}
        <RowChoice
          name={`Whether ${role.name} creates`}
          value={part ? 'may' : 'none'}
          words={{ none: 'never', may: 'with these columns' }}
          onChange={(choice) => void allow(choice === 'may')}
        />
      </p>
      {part && (
        <Ticks
          legend="Columns that may be filled"
          table={table}
          names={names}
          ticked={part.columns}
          onChange={(tick) =>
            void change(`Set what ${role.name} fills in a new record of ${table.name}`, (old) => ({
              ...old,
              create: { ...old.create!, columns: tick(old.create!.columns) },
            }))
          }
        />
      )}
      {part && (
        <KeepIn
          table={table}
          role={role}
          name="Keep-in of a new record"
          value={part.keepIn}
          like={grant.edit ? 'the same as the edit filter' : grant.see ? 'the same as the see filter' : 'nothing more'}
          begin={begin}
          onChange={(keepIn) =>
            change(`Set what a new record of ${role.name} in ${table.name} must satisfy`, (old) => {
              const { keepIn: _was, ...rest } = old.create!;
              return { ...old, create: keepIn === undefined ? rest : { ...rest, keepIn } };
            })
          }
        />
      )}
    </div>
  );
}

function Whole({ table, role, grant, operation, change, begin }: PartProps & { operation: 'delete' | 'export' }) {
  const where = grant[operation]?.where;
  const doing = operation === 'delete' ? 'deletes' : 'exports';
  const set = (next: RowFilter | 'as seen' | null) =>
    change(`Set which rows of ${table.name} ${role.name} ${doing}`, ({ [operation]: _was, ...others }) =>
      next === null ? others : { ...others, [operation]: { where: next } },
    );
  if (!grant.see)
    return (
      <p className="text-soft">
        Only rows that someone sees can be {operation === 'delete' ? 'deleted' : 'taken out'}. Say first which rows{' '}
        {role.name} sees.
      </p>
    );
  return (
    <div className="grid gap-2">
      <p className="flex flex-wrap items-center gap-2">
        They {operation === 'delete' ? 'delete' : 'take out as a file'}{' '}
        <RowChoice
          name={`Rows that ${role.name} ${doing}`}
          value={kindOf(where)}
          words={{ none: 'nothing', seen: 'every row they see', some: 'rows where …', all: 'every row' }}
          onChange={(choice) =>
            void set(
              choice === 'none' ? null : choice === 'seen' ? 'as seen' : choice === 'all' ? 'every row' : begin(),
            )
          }
        />
      </p>
      {where !== undefined && where !== 'as seen' && where !== 'every row' && (
        <ConditionEditor
          table={table}
          role={role}
          name={`${operation === 'delete' ? 'Delete' : 'Export'} filter`}
          value={where}
          onChange={set}
        />
      )}
    </div>
  );
}
