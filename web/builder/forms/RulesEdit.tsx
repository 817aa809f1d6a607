import type { Form, FormRule } from '../../../core/definition/form';
import { inputsOf } from '../../../core/definition/form';
import { freeId } from '../../../core/definition/free-id';
import type { Table } from '../../../core/table/catalogue';
import { Button } from '../../ui/Button';
import { Select } from '../../ui/Select';
import { firstCondition } from '../access/choices';
import { useNames } from '../bench/names';
import type { ChangeForm } from './form-edits';
import { ShownWhen } from './ShownWhen';

/** What else is asked of what is entered, each with its words. */
export function RulesEdit({ form, table, onChange }: { form: Form; table: Table; onChange: ChangeForm }) {
  const names = useNames();
  const inputs = inputsOf(form).map(({ column }) => column);
  const { rules = [] } = form;
  const [first] = inputs;
  return (
    <fieldset className="grid gap-2">
      <legend className="text-sm font-semibold">Rules of this form</legend>
      {rules.map((rule) => {
        const change = (label: string, recipe: (rule: FormRule) => void) =>
          onChange(label, (next) => recipe(next.rules!.find(({ id }) => id === rule.id)!));
        return (
          <div key={rule.id} className="grid gap-2 rounded-stone border border-line p-3">
            <span className="flex flex-wrap items-center gap-2">
              <Select
                aria-label="Which input"
                className="w-auto"
                value={rule.columns[0]!}
                onPick={(column) =>
                  void change(`Choose the input of a rule`, (next) => {
                    next.columns = [column];
                  })
                }
              >
                {inputs.map((column) => (
                  <option key={column} value={column}>
                    {names.column(table.name, column)}
                  </option>
                ))}
              </Select>
              <Select
                aria-label="What the rule says"
                className="w-auto"
                value={rule.does}
                onPick={(does) =>
                  void change(`Set what a rule says`, (next) => {
                    next.does = does as FormRule['does'];
                    if (does === 'refused') {
                      next.when ??= firstCondition(table);
                      next.message ??= "This can't be so.";
                    }
                  })
                }
              >
                <option value="required">needs a value</option>
                <option value="refused">can&apos;t be so</option>
              </Select>
              <input
                className="field w-80"
                aria-label="What is said then"
                placeholder="what is said then"
                key={rule.message ?? ''}
                defaultValue={rule.message ?? ''}
                maxLength={300}
                onBlur={(event) => {
                  const typed = event.target.value.trim();
                  if (typed !== (rule.message ?? '') && (typed || rule.does === 'required'))
                    void change('Word a rule', (next) => {
                      if (typed) next.message = typed;
                      else delete next.message;
                    });
                }}
              />
              <Button
                small
                className="ml-auto"
                onClick={() =>
                  void onChange(`Remove a rule of ${form.title}`, (next) => {
                    next.rules = next.rules!.filter(({ id }) => id !== rule.id);
                    if (next.rules.length === 0) delete next.rules;
                  })
                }
              >
                Remove<span className="sr-only"> the rule</span>
              </Button>
            </span>
            <ShownWhen
              table={table}
              name="When the rule holds"
              where={rule.when}
              always="It holds always."
              onChange={(where) =>
                change('Set when a rule holds', (next) => {
                  if (where) next.when = where;
                  else if (next.does === 'required') delete next.when;
                })
              }
            />
          </div>
        );
      })}
      {first !== undefined && (
        <Button
          small
          className="justify-self-start"
          onClick={() =>
            void onChange(`Add a rule to ${form.title}`, (next) => {
              (next.rules ??= []).push({ id: freeId('rule', next.rules), does: 'required', columns: [first] });
            })
          }
        >
          + rule
        </Button>
      )}
    </fieldset>
  );
}
