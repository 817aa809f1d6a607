import { fromOf, type Form, type FormValue } from '../../../core/definition/form';
import type { StepValue } from '../../../core/definition/action';
import { findColumn, type Table } from '../../../core/table/catalogue';
import { Button } from '../../ui/Button';
import { Select } from '../../ui/Select';
import { firstConstant } from '../access/choices';
import { StepValueChoice } from '../actions/StepValueChoice';
import { useNames } from '../bench/names';
import { unasked, type ChangeForm } from './form-edits';

/** What is put in without being asked, and can't be forged: the server does it. */
export function FillsEdit({
  form,
  table,
  columns,
  onChange,
}: {
  form: Form;
  table: Table;
  columns: string[];
  onChange: ChangeForm;
}) {
  const names = useNames();
  const { fills = {}, title } = form;
  const free = unasked(form, columns);
  const first = (name: string): FormValue => {
    const leads = table.relations.some((each) => each.column === name && each.table === fromOf(form));
    return leads ? { kind: 'this' } : (firstConstant(findColumn(table, name)!) as FormValue);
  };
  return (
    <fieldset className="grid gap-2">
      <legend className="text-sm font-semibold">Filled without being asked</legend>
      {Object.entries(fills).map(([name, value]) => {
        const column = findColumn(table, name);
        return (
          <span key={name} className="flex flex-wrap items-center gap-2">
            <span className="min-w-32">{names.column(table.name, name)}</span>
            <span aria-hidden>←</span>
            {column ? (
              <StepValueChoice
                from={fromOf(form)}
                table={table}
                column={column}
                value={value as StepValue}
                onChange={(next) =>
                  void onChange(`Set what ${title} puts into ${names.column(table.name, name)}`, (now) => {
                    (now.fills ??= {})[name] = next as FormValue;
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
                void onChange(`Let ${title} leave ${names.column(table.name, name)}`, (now) => {
                  delete now.fills![name];
                  if (Object.keys(now.fills!).length === 0) delete now.fills;
                })
              }
            >
              Take out<span className="sr-only"> {names.column(table.name, name)}</span>
            </Button>
          </span>
        );
      })}
      {free.length > 0 && (
        <Select
          aria-label="Fill a column without asking"
          className="w-auto justify-self-start"
          value=""
          onPick={(name) =>
            name &&
            void onChange(`Let ${title} fill ${names.column(table.name, name)}`, (now) => {
              (now.fills ??= {})[name] = first(name);
            })
          }
        >
          <option value="">+ column …</option>
          {free.map((name) => (
            <option key={name} value={name}>
              {names.column(table.name, name)}
            </option>
          ))}
        </Select>
      )}
    </fieldset>
  );
}
