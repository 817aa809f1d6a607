import {
  makesOf,
  valuesSet,
  type Action,
  type ActionStep,
  type CallStep,
  type MailStep,
  type MakeStep,
  type SetStep,
  type StepValues,
} from '../../../core/definition/action';
import { findColumn, findTable, type Table } from '../../../core/table/catalogue';
import { Button } from '../../ui/Button';
import { Notice } from '../../ui/Notice';
import { Select } from '../../ui/Select';
import { useBench } from '../bench/bench-context';
import { useNames } from '../bench/names';
import { askFor, dropStep, dropUnasked, firstValue, writtenColumns } from './action-edits';
import { AddCall, CallEdit } from './CallEdit';
import { MailEdit } from './MailEdit';
import { StepValueChoice } from './StepValueChoice';

export type ChangeAction = (label: string, recipe: (action: Action) => void) => Promise<string | null>;

/** What an action does, one after another. */
export function StepsEdit({ action, table, onChange }: { action: Action; table: Table; onChange: ChangeAction }) {
  const { draft, catalogue } = useBench();
  const names = useNames();
  const lifecycle = draft.lifecycles?.find((each) => each.table === table.name);
  const member = draft.roles.find((role) => (role.for ?? 'members') === 'members');
  const firstReader: MailStep['mail'] = action.on && member ? { to: 'role', role: member.id } : { to: 'presser' };
  const addressName = (id: string) =>
    draft.addresses?.find((each) => each.id === id)?.name ?? 'an address that is gone';
  const states = (of: string) => (draft.lifecycles ?? []).flatMap((each) => (each.table === of ? [each.column] : []));
  const change = (at: number, label: string, recipe: (step: ActionStep, action: Action) => void) =>
    void onChange(label, (next) => {
      recipe(next.steps[at]!, next);
      dropUnasked(next);
    });
  const add = (step: ActionStep, words: string) => void onChange(words, (next) => void next.steps.push(step));
  const values = (step: SetStep | MakeStep, at: number, of: Table) => (
    <ValuesEdit
      action={action}
      of={of}
      values={step.values}
      made={
        step.kind === 'make'
          ? makesOf(action)
              .slice(0, makesOf(action).indexOf(step))
              .map((each) => each.table)
          : []
      }
      columns={writtenColumns(of, states(of.name), step.kind === 'make').map(({ name }) => name)}
      onValues={(label, recipe) => change(at, label, (next, whole) => recipe((next as SetStep).values, whole))}
    />
  );
  return (
    <fieldset className="grid gap-2">
      <legend className="text-sm font-semibold">What it does</legend>
      {action.steps.length === 0 && <p className="text-sm text-iron">Nothing yet.</p>}
      <ol className="grid gap-2">
        {action.steps.map((step, at) => {
          const of = step.kind === 'make' ? findTable(catalogue, step.table) : table;
          return (
            <li key={at} aria-label={`Step ${at + 1}`} className="grid gap-2 rounded-stone border border-line p-3">
              <span className="flex flex-wrap items-center gap-2">
                <strong>{stepWord(step, names, addressName)}</strong>
                {step.kind === 'move' && (
                  <Select
                    aria-label="Which move"
                    className="w-auto"
                    value={step.move}
                    onPick={(move) =>
                      change(at, `Choose a move of ${action.name}`, (next) => Object.assign(next, { move }))
                    }
                  >
                    {!lifecycle?.moves.some(({ id }) => id === step.move) && (
                      <option value={step.move}>a move that is gone</option>
                    )}
                    {lifecycle?.moves.map((move) => (
                      <option key={move.id} value={move.id}>
                        {move.name} (to {move.to})
                      </option>
                    ))}
                  </Select>
                )}
                {step.kind === 'go' && (
                  <Select
                    aria-label="Which page"
                    className="w-auto"
                    value={step.page}
                    onPick={(page) =>
                      change(at, `Choose where ${action.name} leads`, (next) => Object.assign(next, { page }))
                    }
                  >
                    {!draft.pages.some(({ id }) => id === step.page) && (
                      <option value={step.page}>a page that is gone</option>
                    )}
                    {draft.pages.map(({ id, title }) => (
                      <option key={id} value={id}>
                        {title}
                      </option>
                    ))}
                  </Select>
                )}
                {step.kind === 'go' && (
                  <label className="inline-flex min-h-6 items-center gap-1.5 text-sm">
                    <input
                      type="checkbox"
                      checked={step.withRecord === true}
                      onChange={(event) => {
                        const given = event.target.checked;
                        change(at, `Set whether ${action.name} takes the record along`, (next) => {
                          if (next.kind !== 'go') return;
                          if (given) next.withRecord = true;
                          else delete next.withRecord;
                        });
                      }}
                    />{' '}
                    to its form, with the record
                  </label>
                )}
                <Button
                  small
                  className="ml-auto"
                  onClick={() =>
                    void onChange(`Take a step out of ${action.name}`, (next) => {
                      dropStep(next, at);
                      dropUnasked(next);
                    })
                  }
                >
                  Remove<span className="sr-only"> step {at + 1}</span>
                </Button>
              </span>
              {step.kind === 'call' && (
                <CallEdit
                  action={action}
                  step={step}
                  table={table}
                  onChange={(label, recipe) => change(at, label, (next, whole) => recipe(next as CallStep, whole))}
                />
              )}
              {step.kind === 'mail' && (
                <MailEdit
                  step={step}
                  table={table}
                  byItself={action.on !== undefined}
                  onChange={(label, recipe) => change(at, label, (next) => recipe(next as MailStep))}
                />
              )}
              {(step.kind === 'set' || step.kind === 'make') &&
                (of ? values(step, at, of) : <Notice kind="fault">That table is gone.</Notice>)}
            </li>
          );
        })}
      </ol>
      <span className="flex flex-wrap gap-2">
        {Object.keys(valuesSet(action)).length === 0 && (
          <Button small onClick={() => add({ kind: 'set', values: {} }, `Let ${action.name} set values`)}>
            + set values
          </Button>
        )}
        {lifecycle && lifecycle.moves.length > 0 && !action.steps.some(({ kind }) => kind === 'move') && (
          <Button
            small
            onClick={() => add({ kind: 'move', move: lifecycle.moves[0]!.id }, `Let ${action.name} make a move`)}
          >
            + move
          </Button>
        )}
        <Select
          aria-label="Let it make a record of"
          className="w-auto"
          value=""
          onPick={(picked) => {
            if (picked)
              void onChange(`Let ${action.name} make a record of ${names.table(picked)}`, (next) => {
                next.steps.push({ kind: 'make', table: picked, values: linkTo(next, findTable(catalogue, picked)!) });
              });
          }}
        >
          <option value="">+ make a record of …</option>
          {catalogue.tables
            .filter((each) => each.key.length > 0)
            .map(({ name }) => (
              <option key={name} value={name}>
                {names.table(name)}
              </option>
            ))}
        </Select>
        <Button
          small
          onClick={() =>
            add(
              { kind: 'mail', mail: firstReader, subject: action.name, text: 'Hello,\n\n' },
              `Let ${action.name} send a mail`,
            )
          }
        >
          + send a mail
        </Button>
        <AddCall action={action} />
        {draft.pages.length > 0 && !action.steps.some(({ kind }) => kind === 'go') && (
          <Button small onClick={() => add({ kind: 'go', page: draft.pages[0]!.id }, `Let ${action.name} lead on`)}>
            + go to a page
          </Button>
        )}
      </span>
    </fieldset>
  );
}

/** A new record's relation to the record, where there is one. */
function linkTo(action: Action, table: Table): StepValues {
  const relation = table.relations.find((each) => each.table === action.table);
  return relation ? { [relation.column]: { kind: 'this' } } : {};
}

function stepWord(step: ActionStep, names: ReturnType<typeof useNames>, addressName: (id: string) => string): string {
  switch (step.kind) {
    case 'set':
      return 'Set values';
    case 'make':
      return `Make a record of ${names.tableInText(step.table)}`;
    case 'move':
      return 'Make the move';
    case 'go':
      return 'Go to the page';
    case 'mail':
      return 'Send a mail';
    case 'call':
      return `Call ${addressName(step.address)}`;
  }
}

/** So many columns are offered side by side; more stand in a list. */
const mostButtons = 16;

function ValuesEdit({
  action,
  made,
  of,
  values,
  columns,
  onValues,
}: {
  action: Action;
  /** The tables of what is made before. */
  made: readonly string[];
  of: Table;
  values: StepValues;
  columns: string[];
  onValues: (label: string, recipe: (values: StepValues, action: Action) => void) => void;
}) {
  const names = useNames();
  const free = columns.filter((name) => !Object.hasOwn(values, name));
  const add = (name: string) => {
    const column = findColumn(of, name);
    if (column)
      onValues(`Let ${action.name} set ${names.column(of.name, name)}`, (now, whole) => {
        now[name] = firstValue(whole, of, column);
      });
  };
  return (
    <div className="grid gap-2">
      {Object.entries(values).map(([name, value]) => {
        const column = findColumn(of, name);
        return (
          <span key={name} className="flex flex-wrap items-center gap-2">
            <span className="min-w-32">{names.column(of.name, name)}</span>
            <span aria-hidden>←</span>
            {column ? (
              <StepValueChoice
                from={action.table}
                asks
                made={made}
                table={of}
                column={column}
                value={value}
                onChange={(next) =>
                  onValues(`Set what ${action.name} puts into ${names.column(of.name, name)}`, (now, whole) => {
                    now[name] = next === 'ask' ? askFor(whole, of, column) : next;
                  })
                }
              />
            ) : (
              <span className="text-iron">a column that is gone</span>
            )}
            <Button
              small
              weight="quiet"
              onClick={() =>
                onValues(`Let ${action.name} leave ${names.column(of.name, name)}`, (now) => {
                  delete now[name];
                })
              }
            >
              Take out<span className="sr-only"> {names.column(of.name, name)}</span>
            </Button>
          </span>
        );
      })}
      {free.length > 0 && free.length <= mostButtons && (
        <span role="group" aria-label={`Columns of ${names.table(of.name)}`} className="flex flex-wrap gap-1">
          {free.map((name) => (
            <Button key={name} small weight="quiet" onClick={() => add(name)}>
              + {names.column(of.name, name)}
            </Button>
          ))}
        </span>
      )}
      {free.length > mostButtons && (
        <Select
          aria-label={`Add a column of ${names.table(of.name)}`}
          className="w-auto justify-self-start"
          value=""
          onPick={add}
        >
          <option value="">+ column …</option>
          {free.map((name) => (
            <option key={name} value={name}>
              {names.column(of.name, name)}
            </option>
          ))}
        </Select>
      )}
    </div>
  );
}
