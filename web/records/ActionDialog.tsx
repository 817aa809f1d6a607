import { useEffect, useRef, useState, type FormEvent } from 'react';
import { fromPlain, plainText } from '../../core/table/plain-text';
import { problemText, ServerProblem } from '../client/http';
import type { ActedOn, ActionTold, AskTold } from '../client/actions';
import { usePlace } from '../place/place';
import { Button } from '../ui/Button';
import { Dialog } from '../ui/Dialog';
import { Field } from '../ui/Field';
import { InputLabel } from './InputLabel';
import { Notice } from '../ui/Notice';
import { ColumnInput } from './ColumnInput';

/** What stands in an ask at first, as text. */
function firstText({ first }: AskTold, on: ActedOn): string {
  if (first === null) return '';
  if ('value' in first) return plainText(first.value ?? null);
  if (!('record' in on) || on.record.masked.includes(first.path)) return '';
  return plainText(on.record.values[first.path] ?? null);
}

/** Asks what an action asks, and whether it shall be done. */
export default function ActionDialog({
  action,
  on,
  called,
  onSend,
  onClose,
}: {
  action: ActionTold;
  on: ActedOn;
  called: string | null;
  onSend: (asked: Record<string, unknown>) => Promise<void>;
  onClose: () => void;
}) {
  const { base } = usePlace();
  const [typed, setTyped] = useState(() => Object.fromEntries(action.asks.map((ask) => [ask.id, firstText(ask, on)])));
  const [faults, setFaults] = useState<Record<string, string>>({});
  const [busy, setBusy] = useState(false);
  // A file is for one record.
  const asks = action.asks.filter(({ column }) => !('ids' in on && on.ids.length > 1 && column.kind === 'file'));
  const form = useRef<HTMLFormElement>(null);
  useEffect(() => {
    if (Object.keys(faults).length > 0) form.current?.querySelector<HTMLElement>('[aria-invalid="true"]')?.focus();
  }, [faults]);
  const send = async (event: FormEvent) => {
    event.preventDefault();
    // The dialog may stand within a record's own form, to which React would hand it on.
    event.stopPropagation();
    setBusy(true);
    try {
      await onSend(Object.fromEntries(asks.map(({ id, column }) => [id, fromPlain(column, typed[id] ?? '')])));
      onClose();
    } catch (error) {
      setFaults(faultsByAsk(error, action.asks));
    } finally {
      setBusy(false);
    }
  };
  return (
    <Dialog
      title={called === null ? action.name : `${action.name}: ${called}`}
      open
      onOpenChange={(open) => !open && onClose()}
    >
      <form ref={form} noValidate className="grid gap-3" onSubmit={(event) => void send(event)}>
        {action.confirm && <p className="whitespace-pre-line">{action.confirm}</p>}
        {asks.map(({ id, column, table, required }) => (
          <Field key={id} label={<InputLabel label={column.label} mayStayEmpty={!required} />} fault={faults[id]}>
            {(ids) => (
              <ColumnInput
                column={column}
                value={typed[id] ?? ''}
                onChange={(text) => setTyped((before) => ({ ...before, [id]: text }))}
                place={{ base, table, id: null }}
                inputProps={ids}
              />
            )}
          </Field>
        ))}
        {faults[''] && <Notice kind="fault">{faults['']}</Notice>}
        <Button type="submit" weight="main" disabled={busy}>
          {busy ? 'Working …' : action.name}
        </Button>
      </form>
    </Dialog>
  );
}

function faultsByAsk(error: unknown, asks: readonly AskTold[]): Record<string, string> {
  if (error instanceof ServerProblem && error.type === 'some-refused') {
    const [first] = (error.body.outcomes as { detail?: string }[]).filter((each) => each.detail);
    return { '': `${error.message} ${first?.detail ?? ''}` };
  }
  const fields = error instanceof ServerProblem ? ((error.body.fields ?? {}) as Record<string, string>) : {};
  const known = Object.entries(fields).filter(([id]) => asks.some((ask) => ask.id === id));
  return known.length > 0 ? Object.fromEntries(known) : { '': problemText(error) };
}
