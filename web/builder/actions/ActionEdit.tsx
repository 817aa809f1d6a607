import type { Action } from '../../../core/definition/action';
import type { Table } from '../../../core/table/catalogue';
import { Button } from '../../ui/Button';
import { Field } from '../../ui/Field';
import { Select } from '../../ui/Select';
import { firstCondition } from '../access/choices';
import { ConditionEditor } from '../access/ConditionEditor';
import { RoleTicks } from '../access/RoleTicks';
import { useBench } from '../bench/bench-context';
import { useNames } from '../bench/names';
import { AsksEdit } from './AsksEdit';
import { SetOffEdit } from './SetOffEdit';
import { StepsEdit, type ChangeAction } from './StepsEdit';

/** What an action is called, who may do it with what, and what it does. */
export function ActionEdit({ action, table }: { action: Action; table: Table }) {
  const { draft, edit } = useBench();
  const names = useNames();
  const change: ChangeAction = (label, recipe) =>
    edit(label, (next) => {
      const known = next.actions?.find(({ id }) => id === action.id);
      if (known) recipe(known);
    });
  const sees = (role: string) => draft.access[table.name]?.[role]?.see !== undefined;
  const { name, where, several, keepIn } = action;
  return (
    <div className="grid gap-4">
      <Field label={action.on ? 'What it is called' : 'What its button says'}>
        {(ids) => (
          <input
            className="field max-w-80"
            {...ids}
            key={name}
            defaultValue={name}
            maxLength={60}
            onBlur={(event) => {
              const typed = event.target.value.trim();
              if (typed && typed !== name)
                void change(`Call an action ${typed}`, (next) => {
                  next.name = typed;
                });
              else event.target.value = name;
            }}
          />
        )}
      </Field>
      <SetOffEdit action={action} table={table} />
      {!action.on && (
        <>
          <RoleTicks
            legend="Who may do it"
            ticked={action.roles}
            fits={({ id }) => sees(id) || action.roles.includes(id)}
            onChange={(tick) =>
              void change(`Choose who may do ${name}`, (next) => {
                next.roles = tick(next.roles);
              })
            }
          />
          <p className="text-sm text-soft">With the {names.tableInText(table.name)} that they see.</p>
        </>
      )}
      {where ? (
        <div className="grid gap-1">
          <span className="text-sm font-semibold">Only when</span>
          <ConditionEditor
            table={table}
            name={`When ${name} can be done`}
            value={where}
            onChange={(next) =>
              change(`Set when ${name} can be done`, (now) => {
                now.where = next;
              })
            }
          />
          <Button
            small
            className="justify-self-start"
            onClick={() =>
              void change(`Let ${name} be done always`, (now) => {
                delete now.where;
              })
            }
          >
            Always
          </Button>
        </div>
      ) : (
        <Button
          small
          className="justify-self-start"
          onClick={() =>
            void change(`Set when ${name} can be done`, (now) => {
              now.where = firstCondition(table);
            })
          }
        >
          Only when …
        </Button>
      )}
      <StepsEdit action={action} table={table} onChange={change} />
      <AsksEdit action={action} onChange={change} />
      <div className="grid gap-3 @min-[700px]:grid-cols-2">
        {!action.on && (
          <Field label="With several at once">
            {(ids) => (
              <Select
                {...ids}
                value={several ?? ''}
                onPick={(picked) =>
                  void change(`Set whether ${name} is done with several`, (next) => {
                    if (picked) next.several = picked as NonNullable<Action['several']>;
                    else delete next.several;
                  })
                }
              >
                <option value="">no, with one at a time</option>
                <option value="each by itself">yes, and those that can&apos;t are left and named</option>
                <option value="all or nothing">yes, with all of them or with none</option>
              </Select>
            )}
          </Field>
        )}
        <Field label="What must hold afterwards">
          {(ids) => (
            <Select
              {...ids}
              value={keepIn === undefined ? '' : keepIn === 'every row' ? 'every row' : 'own'}
              onPick={(picked) =>
                void change(`Set what must hold after ${name}`, (next) => {
                  if (picked === '') delete next.keepIn;
                  else next.keepIn = picked === 'own' ? firstCondition(table) : 'every row';
                })
              }
            >
              <option value="">{action.on ? 'the service still sees the record' : 'they still see the record'}</option>
              <option value="every row">nothing but fences: it may leave their sight</option>
              <option value="own">a condition</option>
            </Select>
          )}
        </Field>
        {!action.on && (
          <>
            <Words
              label="Asked before it is done"
              hint="Empty asks nothing"
              value={action.confirm ?? ''}
              onChange={(text) =>
                void change(`Word what ${name} asks`, (next) => {
                  if (text) next.confirm = text;
                  else delete next.confirm;
                })
              }
            />
            <Words
              label="Said once it is done"
              hint={`Empty says “${name}: done.”`}
              value={action.says ?? ''}
              onChange={(text) =>
                void change(`Word what ${name} says`, (next) => {
                  if (text) next.says = text;
                  else delete next.says;
                })
              }
            />
          </>
        )}
      </div>
      {typeof keepIn === 'object' && (
        <ConditionEditor
          table={table}
          name={`After ${name}`}
          value={keepIn}
          onChange={(next) =>
            change(`Set what must hold after ${name}`, (now) => {
              now.keepIn = next;
            })
          }
        />
      )}
    </div>
  );
}

function Words({
  label,
  hint,
  value,
  onChange,
}: {
  label: string;
  hint: string;
  value: string;
  onChange: (text: string) => void;
}) {
  return (
    <Field label={label} hint={hint}>
      {(ids) => (
        <input
          className="field"
          {...ids}
          key={value}
          defaultValue={value}
          maxLength={300}
          onBlur={(event) => {
            const typed = event.target.value.trim();
            if (typed !== value) onChange(typed);
          }}
        />
      )}
    </Field>
  );
}
