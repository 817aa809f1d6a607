import { useId, type ReactNode } from 'react';

/** A labelled input with its fault below it. The child gets the ids to tie them together. */
export function Field({
  label,
  fault,
  hint,
  beside = false,
  children,
}: {
  label: ReactNode;
  fault?: string | null;
  hint?: ReactNode;
  /** The label stands beside the input, as beside the plain values of a record. */
  beside?: boolean;
  children: (ids: { id: string; 'aria-invalid': boolean; 'aria-describedby': string | undefined }) => ReactNode;
}) {
  const id = useId();
  const described = fault ? `${id}-fault` : hint ? `${id}-hint` : undefined;
  const below = fault ? (
    <p id={`${id}-fault`} className="text-iron text-sm font-medium">
      {fault}
    </p>
  ) : hint ? (
    <p id={`${id}-hint`} className="text-soft text-sm">
      {hint}
    </p>
  ) : null;
  const input = children({ id, 'aria-invalid': Boolean(fault), 'aria-describedby': described });
  if (beside) {
    return (
      <div className="grid grid-cols-[minmax(5rem,8rem)_1fr] gap-3">
        <label htmlFor={id} className="text-soft text-sm pt-1.5">
          {label}
        </label>
        <div className="grid content-start gap-1">
          {input}
          {below}
        </div>
      </div>
    );
  }
  return (
    <div className="grid content-start gap-1">
      <label htmlFor={id} className="font-semibold text-sm">
        {label}
      </label>
      {input}
      {below}
    </div>
  );
}
