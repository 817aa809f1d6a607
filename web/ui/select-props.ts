import type { ReactNode } from 'react';

export interface SelectProps {
  value: string | number | undefined;
  /** With the value of what was chosen; not called when the same is chosen again. */
  onPick: (value: string) => void;
  /** `<option>` and `<optgroup>`, as HTML has them. */
  children: ReactNode;
  id?: string;
  className?: string;
  disabled?: boolean;
  'aria-label'?: string;
  'aria-invalid'?: boolean;
  'aria-describedby'?: string;
}
