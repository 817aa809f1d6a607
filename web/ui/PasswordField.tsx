import { Field } from './Field';

/** A password as it is typed: hidden, pasted and managed as browsers do. */
export function PasswordField({
  label,
  value,
  onValue,
  isNew = false,
  fault,
  hint,
}: {
  label: string;
  value: string;
  onValue: (value: string) => void;
  /** One that is being chosen, not one that is known. */
  isNew?: boolean;
  fault?: string | null;
  hint?: string;
}) {
  return (
    <Field label={label} hint={hint} fault={fault}>
      {(ids) => (
        <input
          className="field"
          type="password"
          autoComplete={isNew ? 'new-password' : 'current-password'}
          {...ids}
          value={value}
          onChange={(event) => onValue(event.target.value)}
        />
      )}
    </Field>
  );
}
