import type { ReactNode } from 'react';
import { Controller, type Control, type FieldPath, type FieldValues, type RegisterOptions } from 'react-hook-form';
import { Select } from './Select';

/** One of several as a field of a form that react-hook-form keeps. */
export function FormSelect<T extends FieldValues>({
  control,
  name,
  rules,
  onPicked,
  children,
  ...ids
}: {
  control: Control<T>;
  name: FieldPath<T>;
  rules?: Pick<RegisterOptions<T, FieldPath<T>>, 'required'>;
  /** After the form has it. */
  onPicked?: (value: string) => void;
  children: ReactNode;
  id: string;
  'aria-invalid'?: boolean;
  'aria-describedby'?: string;
}) {
  return (
    <Controller
      control={control}
      name={name}
      rules={rules as RegisterOptions<T, FieldPath<T>> as never}
      render={({ field }) => (
        <Select
          {...ids}
          value={String(field.value ?? '')}
          onPick={(value) => {
            field.onChange(value);
            onPicked?.(value);
          }}
        >
          {children}
        </Select>
      )}
    />
  );
}
