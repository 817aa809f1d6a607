import type { Ref } from 'react';
import { Combobox, type ComboboxProps } from '../ui/Combobox';

/** One of several in the place of a cell: typed, or picked from what fits. Picking is the end of it. */
export function ChoiceBox({
  options,
  label,
  value,
  onChange,
  onPick,
  ...rest
}: {
  /** The text of each value, and what it is called. */
  options: [string, string][];
  label: string;
  value: string;
  onChange: (text: string) => void;
  onPick: (text: string) => void;
  inputProps?: ComboboxProps['inputProps'];
  inputRef?: Ref<HTMLInputElement>;
  className?: string;
  frame?: string;
}) {
  const called = options.find(([each]) => each === value)?.[1] ?? value;
  const begins = (text: string) => text.toLowerCase().startsWith(value.toLowerCase());
  const fitting = options.some(([each]) => each === value) ? options : options.filter((option) => option.some(begins));
  return (
    <Combobox
      {...rest}
      label={label}
      items={fitting.map(([each, name]) => ({ value: each, label: name }))}
      first={called}
      nothing="No such choice"
      onType={(text) => onChange(options.find(([, name]) => name.toLowerCase() === text.toLowerCase())?.[0] ?? text)}
      onPick={(item) => onPick(item.value)}
    />
  );
}
