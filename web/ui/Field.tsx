import { useId, type ReactNode } from 'react';

/** A labelled input with its fault below it. The child gets the ids to tie them together. */
export function Field({ label, fault, hint, children }: {
  label: ReactNode;
  fault?: string | null;
  hint?: ReactNode;
  children: (ids: { id: string; 'aria-invalid': boolean; 'aria-describedby': string | undefined }) => ReactNode;
}) {
  const id = useId();
  const described = fault ? `${id}-fault` : hint ? `${id}-hint` : undefined;
  return (
    <div className="grid gap-1">
      <label htmlFor={id} className="font-semibold text-sm">{label}</label>
      {children({ id, 'aria-invalid': Boolean(fault), 'aria-describedby': described })}
      {fault ? <p id={`${id}-fault`} className="text-iron text-sm font-medium">{fault}</p> : hint ? <p id={`${id}-hint`} className="text-soft text-sm">{hint}</p> : null}
    </div>
  );
}
