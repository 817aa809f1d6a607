import { useState, type FormEvent, type ReactNode } from 'react';
import { Button } from './Button';
import { Dialog } from './Dialog';
import { Field } from './Field';

/** Why something is done, in three letters at least. */
export function ReasonField({
  label = 'Why',
  fault = null,
  reason,
  onChange,
}: {
  label?: string;
  fault?: string | null;
  reason: string;
  onChange: (reason: string) => void;
}) {
  return (
    <Field label={label} fault={fault}>
      {(ids) => (
        <input
          className="field"
          {...ids}
          required
          minLength={3}
          maxLength={500}
          value={reason}
          onChange={(event) => onChange(event.target.value)}
        />
      )}
    </Field>
  );
}

/** Asks for the reason before something is done that others will want to know why. */
export function ReasonDialog({
  trigger,
  title,
  says,
  label,
  go,
  fault,
  onGo,
  children,
}: {
  trigger: ReactNode;
  title: string;
  says: string;
  label: string;
  go: string;
  fault: string | null;
  onGo: (reason: string, done: () => void) => void;
  /** What is chosen beside it. */
  children?: ReactNode;
}) {
  const [open, setOpen] = useState(false);
  const [reason, setReason] = useState('');
  const submit = (event: FormEvent) => {
    event.preventDefault();
    onGo(reason, () => {
      setOpen(false);
      setReason('');
    });
  };
  return (
    <Dialog trigger={trigger} title={title} says={says} open={open} onOpenChange={setOpen}>
      <form onSubmit={submit} className="grid gap-3">
        {children}
        <ReasonField label={label} fault={fault} reason={reason} onChange={setReason} />
        <div>
          <Button type="submit" weight="main">
            {go}
          </Button>
        </div>
      </form>
    </Dialog>
  );
}
