import { useState, type Ref } from 'react';
import { useCandidates } from '../client/grid';
import { Combobox, type ComboboxProps } from '../ui/Combobox';

export interface RelationInputProps {
  base: string;
  /** The table that the relation is of, and its name there. */
  table: string;
  relation: string;
  label: string;
  /** What the relation holds, and what the record there is called, where that is known. */
  value: string;
  title: string | null;
  /** Each time what stands there changes. */
  onChange: (value: string) => void;
  /** When a record was chosen for good. */
  onPick?: (value: string) => void;
  inputProps?: ComboboxProps['inputProps'];
  inputRef?: Ref<HTMLInputElement>;
  className?: string;
  frame?: string;
}

/** A record of the other table, found by what it is called there or by what the relation holds. */
export default function RelationInput({
  base,
  table,
  relation,
  value,
  title,
  onChange,
  onPick,
  ...rest
}: RelationInputProps) {
  const [search, setSearch] = useState('');
  const candidates = useCandidates(base, table, relation, search);
  return (
    <Combobox
      {...rest}
      items={(candidates.data?.candidates ?? []).map((each) => ({
        value: String(each.value),
        label: each.label,
        ...(each.label === String(each.value) ? {} : { beside: String(each.value) }),
      }))}
      first={title ?? value}
      nothing={candidates.data ? 'No such record' : undefined}
      onType={(text) => {
        setSearch(text);
        // What the relation holds may be typed itself; nothing typed is no record.
        onChange(text.trim());
      }}
      onPick={(item) => {
        onChange(item.value);
        onPick?.(item.value);
      }}
    />
  );
}
