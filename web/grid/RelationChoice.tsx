import { useState, type Ref } from 'react';
import { useCombobox } from 'downshift';
import { useCandidates, type Candidate, type TableInfo } from '../client/grid';

interface RelationChoiceProps {
  base: string;
  info: TableInfo;
  column: string;
  label: string;
  /** What the relation holds, and what the record there is called, where that is known. */
  value: string;
  title: string | null;
  /** Each time what stands there changes. */
  onChoose: (value: string) => void;
  /** When a record was chosen for good. */
  onPick?: (value: string) => void;
  /** Of the input, where it stands in the place of a cell. */
  inputProps?: {
    id?: string;
    'aria-describedby'?: string;
    'aria-invalid'?: boolean;
    onBlur?: () => void;
    onKeyDown?: (event: React.KeyboardEvent) => void;
  };
  inputRef?: Ref<HTMLInputElement>;
  look: string;
  frame?: string;
}

/** A record of the other table, found by what it is called there or by what the relation holds. */
export function RelationChoice({
  base,
  info,
  column,
  label,
  value,
  title,
  onChoose,
  onPick,
  inputProps = {},
  inputRef,
  look,
  frame = 'relative min-w-0 flex-1',
}: RelationChoiceProps) {
  const relation = info.relations.find((each) => each.column === column)!;
  const [search, setSearch] = useState('');
  const candidates = useCandidates(base, info.table, relation.name, search);
  const items: Candidate[] = candidates.data?.candidates ?? [];
  const pick = (each: Candidate) => {
    onChoose(String(each.value));
    onPick?.(String(each.value));
  };
  const textOf = (each: Candidate | null) => (each === null ? '' : each.label);
  const box = useCombobox<Candidate>({
    items,
    itemToString: textOf,
    itemToKey: (each) => (each === null ? null : String(each.value)),
    initialInputValue: title ?? value,
    onInputValueChange: ({ inputValue, type }) => {
      if (type !== useCombobox.stateChangeTypes.InputChange) return;
      setSearch(inputValue);
      // What the relation holds may be typed itself; nothing typed is no record.
      onChoose(inputValue.trim());
    },
    onSelectedItemChange: ({ selectedItem }) => {
      if (selectedItem) pick(selectedItem);
    },
  });
  const { id, onKeyDown, ...rest } = inputProps;
  return (
    <div className={frame}>
      <input
        {...box.getInputProps({
          ...(id ? { id } : {}),
          ref: inputRef,
          className: look,
          autoComplete: 'off',
          'aria-label': label,
          ...rest,
          onKeyDown: (event) => {
            // A choice in the list is taken by the list; what is left of the key is the cell's.
            const taking = box.isOpen && box.highlightedIndex >= 0 && event.key === 'Enter';
            if (taking) return;
            // Typed in full, a name is as good as a choice.
            const typed = box.inputValue.trim().toLowerCase();
            const named =
              event.key === 'Enter' && onPick && !items.some((each) => String(each.value) === typed)
                ? items.filter((each) => each.label.toLowerCase() === typed)
                : [];
            if (named.length === 1) pick(named[0]!);
            else onKeyDown?.(event);
          },
        })}
      />
      <ul
        {...box.getMenuProps({ 'aria-label': label })}
        className={
          box.isOpen
            ? 'absolute top-full left-0 z-20 max-h-56 min-w-56 overflow-y-auto border border-line-strong ' +
              'bg-paper text-sm shadow-none'
            : ''
        }
      >
        {box.isOpen &&
          items.map((each, index) => (
            <li
              key={String(each.value)}
              {...box.getItemProps({ item: each, index })}
              className={
                'flex cursor-pointer justify-between gap-3 px-2 py-1 ' +
                `${box.highlightedIndex === index ? 'bg-water-wash' : ''}`
              }
            >
              <span className="truncate">{each.label}</span>
              {each.label !== String(each.value) && <span className="text-soft">{String(each.value)}</span>}
            </li>
          ))}
        {box.isOpen && candidates.data && items.length === 0 && <li className="px-2 py-1 text-soft">No such record</li>}
      </ul>
    </div>
  );
}
