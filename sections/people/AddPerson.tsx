import { useState, type FormEvent } from 'react';
import { fromPlain } from '../../core/table/plain-text';
import { problemText, ServerProblem } from '../../web/client/http';
import { useAddRecord } from '../../web/client/stewards';
import { usePlace } from '../../web/place/place';
import { InputLabel } from '../../web/records/InputLabel';
import { ColumnInput } from '../../web/records/ColumnInput';
import { Button } from '../../web/ui/Button';
import { Dialog } from '../../web/ui/Dialog';
import { Field } from '../../web/ui/Field';
import { Notice } from '../../web/ui/Notice';
import type { ShowProps } from '../show';

/** Asks what the row of somebody new is to hold, and makes it. Nothing is sent to them. */
export function AddPerson({
  section,
  onClose,
  onAdded,
}: {
  section: ShowProps<'people'>['section'];
  onClose: () => void;
  onAdded: () => void;
}) {
  const { base } = usePlace();
  const [typed, setTyped] = useState<Record<string, string>>({});
  const add = useAddRecord(base, section.table);
  const fills = section.fills ?? [];
  const faults = add.error instanceof ServerProblem ? ((add.error.body.fields ?? {}) as Record<string, string>) : {};
  const isNamed = fills.some(({ path }) => faults[path] !== undefined);
  const submit = (event: FormEvent) => {
    event.preventDefault();
    const filled = fills.filter(({ path }) => (typed[path] ?? '') !== '');
    const values = Object.fromEntries(filled.map((column) => [column.path, fromPlain(column, typed[column.path]!)]));
    add.mutate(values, { onSuccess: onAdded });
  };
  return (
    <Dialog
      title="Add somebody"
      says="They are entered in the list at once. Nothing is sent to them until you invite them."
      open
      onOpenChange={(open) => !open && onClose()}
    >
      <form onSubmit={submit} noValidate className="grid gap-3">
        {fills.map((column) => (
          <Field
            key={column.path}
            label={<InputLabel label={column.label} mayStayEmpty={column.mayStayEmpty === true} />}
            fault={faults[column.path]}
          >
            {(ids) => (
              <ColumnInput
                column={column}
                value={typed[column.path] ?? ''}
                onChange={(text) => setTyped((before) => ({ ...before, [column.path]: text }))}
                place={{ base, table: section.table, id: null }}
                inputProps={ids}
              />
            )}
          </Field>
        ))}
        {add.isError && !isNamed && <Notice kind="fault">{problemText(add.error)}</Notice>}
        <div>
          <Button type="submit" weight="main" disabled={add.isPending}>
            Add
          </Button>
        </div>
      </form>
    </Dialog>
  );
}
