import type { Form, FormStep } from '../../../core/definition/form';
import { freeId } from '../../../core/definition/free-id';
import type { Table } from '../../../core/table/catalogue';
import { Button } from '../../ui/Button';
import { Field } from '../../ui/Field';
import { Select } from '../../ui/Select';
import { useBench } from '../bench/bench-context';
import { AtTimes } from './AtTimes';
import { AfterSending } from './AfterSending';
import { fillable, type ChangeForm } from './form-edits';
import { FillsEdit } from './FillsEdit';
import { LinkMaker } from './LinkMaker';
import { OpenedWith } from './OpenedWith';
import { RulesEdit } from './RulesEdit';
import { TurnedAwayList } from './TurnedAwayList';
import { PartsEdit } from './PartsEdit';

/** A form as it is laid out: its steps with what each asks, and what follows. */
export function FormEdit({ form, table }: { form: Form; table: Table }) {
  const { draft, edit } = useBench();
  const change: ChangeForm = (label, recipe) =>
    edit(label, (next) => {
      const known = next.forms?.find(({ id }) => id === form.id);
      if (known) recipe(known);
    });
  const columns = fillable(draft, table, { changes: form.changes === true });
  return (
    <div className="grid gap-4">
      <Field label="Title">
        {(ids) => (
          <input
            className="field max-w-96"
            {...ids}
            key={form.title}
            defaultValue={form.title}
            maxLength={80}
            onBlur={(event) => {
              const typed = event.target.value.trim();
              if (typed && typed !== form.title)
                void change(`Call a form ${typed}`, (next) => {
                  if (next.steps.length === 1 && next.steps[0]!.title === next.title) next.steps[0]!.title = typed;
                  next.title = typed;
                });
              else event.target.value = form.title;
            }}
          />
        )}
      </Field>
      <OpenedWith form={form} table={table} onChange={change} />
      <ol className="grid gap-3">
        {form.steps.map((step, at) => (
          <StepEdit key={step.id} form={form} step={step} at={at} table={table} columns={columns} onChange={change} />
        ))}
      </ol>
      {form.steps.length < 20 && (
        <Button
          small
          className="justify-self-start"
          onClick={() =>
            void change(`Add a step to ${form.title}`, (next) => {
              next.steps.push({ id: freeId('step', next.steps), title: `Step ${next.steps.length + 1}`, parts: [] });
            })
          }
        >
          + step
        </Button>
      )}
      <FillsEdit form={form} table={table} columns={columns} onChange={change} />
      <RulesEdit form={form} table={table} onChange={change} />
      <AfterSending form={form} onChange={change} />
      <LinkMaker form={form} table={table} />
      <TurnedAwayList form={form.id} />
    </div>
  );
}

function StepEdit({
  form,
  step,
  at,
  table,
  columns,
  onChange,
}: {
  form: Form;
  step: FormStep;
  at: number;
  table: Table;
  columns: string[];
  onChange: ChangeForm;
}) {
  const { id, title, across } = step;
  const change = (label: string, recipe: (step: FormStep) => void) =>
    onChange(label, (next) => {
      const known = next.steps.find((each) => each.id === id);
      if (known) recipe(known);
    });
  return (
    <li aria-label={`Step ${title}`} className="grid gap-3 rounded-stone border border-line p-3">
      <span className="flex flex-wrap items-center gap-2">
        <input
          className="field w-64 font-semibold"
          aria-label={`Title of step ${at + 1}`}
          key={title}
          defaultValue={title}
          maxLength={80}
          onBlur={(event) => {
            const typed = event.target.value.trim();
            if (typed && typed !== title)
              void change(`Call a step ${typed}`, (next) => {
                next.title = typed;
              });
            else event.target.value = title;
          }}
        />
        <Select
          aria-label={`Inputs side by side in ${title}`}
          className="w-auto"
          value={String(across ?? 1)}
          onPick={(picked) =>
            void change(`Set how ${title} stands`, (next) => {
              if (picked === '1') delete next.across;
              else next.across = Number(picked) as 2 | 3;
            })
          }
        >
          <option value="1">one below another</option>
          <option value="2">two side by side</option>
          <option value="3">three side by side</option>
        </Select>
        {form.steps.length > 1 && (
          <span className="ml-auto flex gap-1">
            <Button
              small
              disabled={at === 0}
              onClick={() =>
                void onChange(`Move the step ${title}`, (next) => {
                  const [moved] = next.steps.splice(at, 1);
                  next.steps.splice(at - 1, 0, moved!);
                })
              }
            >
              Earlier<span className="sr-only">: {title}</span>
            </Button>
            <Button
              small
              onClick={() =>
                void onChange(`Remove the step ${title}`, (next) => {
                  next.steps = next.steps.filter((each) => each.id !== id);
                })
              }
            >
              Remove<span className="sr-only"> the step {title}</span>
            </Button>
          </span>
        )}
      </span>
      <AtTimes
        form={form}
        table={table}
        called={`the step ${title}`}
        times={step}
        entered={at > 0}
        onChange={(label, recipe) => change(label, recipe)}
      />
      <PartsEdit form={form} at={at} table={table} columns={columns} onChange={onChange} />
    </li>
  );
}
