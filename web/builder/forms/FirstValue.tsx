import type { StepValue } from '../../../core/definition/action';
import { fromOf, type Form, type FormInput, type FormPart, type FormValue } from '../../../core/definition/form';
import type { Column, Table } from '../../../core/table/catalogue';
import { Button } from '../../ui/Button';
import { firstConstant } from '../access/choices';
import { StepValueChoice } from '../actions/StepValueChoice';

/** What stands in an input at first; whoever fills the form in can change it. */
export function FirstValue({
  part,
  form,
  table,
  column,
  called,
  onChange,
}: {
  part: FormInput;
  form: Form;
  table: Table;
  column: Column;
  called: string;
  onChange: (label: string, recipe: (part: FormPart) => void) => Promise<string | null>;
}) {
  const set = (value: FormValue | undefined) =>
    void onChange(`Set what stands in ${called} at first`, (next) => {
      if (value) (next as FormInput).first = value;
      else delete (next as FormInput).first;
    });
  if (!part.first)
    return (
      <Button small weight="quiet" onClick={() => set(firstConstant(column) as FormValue)}>
        + stands there at first<span className="sr-only">: {called}</span>
      </Button>
    );
  return (
    <span className="flex flex-wrap items-center gap-2 text-sm">
      at first
      <StepValueChoice
        from={fromOf(form)}
        table={table}
        column={column}
        value={part.first as StepValue}
        onChange={(next) => set(next as FormValue)}
      />
      <Button small weight="quiet" onClick={() => set(undefined)}>
        Empty<span className="sr-only"> at first: {called}</span>
      </Button>
    </span>
  );
}
