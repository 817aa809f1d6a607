import type { KeyboardEvent, Ref } from 'react';
import { useCombobox } from 'downshift';

/** What can be chosen: its value as text, what it is called, and what stands small beside it. */
export interface ComboboxItem {
  value: string;
  label: string;
  beside?: string;
}

export interface ComboboxProps {
  /** Those that fit what is typed. */
  items: readonly ComboboxItem[];
  label: string;
  /** What stands in the box at first. */
  first: string;
  /** Each time the text changes by typing. */
  onType: (text: string) => void;
  /** When one is chosen: from the list, or by its name typed in full and Enter. */
  onPick: (item: ComboboxItem) => void;
  /** Said while nothing fits; absent while that isn't known. */
  nothing?: string;
  /** Of the input. */
  inputProps?: {
    id?: string;
    'aria-describedby'?: string;
    'aria-invalid'?: boolean;
    onBlur?: () => void;
    onKeyDown?: (event: KeyboardEvent) => void;
  };
  inputRef?: Ref<HTMLInputElement>;
  className?: string;
  frame?: string;
}

/** A text box with a list of what fits below it. */
export function Combobox({
  items,
  label,
  first,
  onType,
  onPick,
  nothing,
  inputProps = {},
  inputRef,
  className = 'field',
  frame = 'relative min-w-0 flex-1',
}: ComboboxProps) {
  const box = useCombobox<ComboboxItem>({
    items: [...items],
    itemToString: (each) => each?.label ?? '',
    itemToKey: (each) => each?.value ?? null,
    initialInputValue: first,
    onInputValueChange: ({ inputValue, type }) => {
      if (type === useCombobox.stateChangeTypes.InputChange) onType(inputValue);
    },
    onSelectedItemChange: ({ selectedItem }) => {
      if (selectedItem) onPick(selectedItem);
    },
  });
  const { id, onKeyDown, ...rest } = inputProps;
  return (
    <div className={frame}>
      <input
        {...box.getInputProps({
          ...(id ? { id } : {}),
          ref: inputRef,
          className,
          autoComplete: 'off',
          'aria-label': label,
          ...rest,
          onKeyDown: (event) => {
            // A choice in the list is taken by the list; what is left of the key is for whom it stands in.
            const taking = box.isOpen && box.highlightedIndex >= 0 && event.key === 'Enter';
            if (taking) return;
            // Typed in full, a name is as good as a choice.
            const typed = box.inputValue.trim().toLowerCase();
            const named =
              event.key === 'Enter' && !items.some((each) => each.value === typed)
                ? items.filter((each) => each.label.toLowerCase() === typed)
                : [];
            if (named.length === 1) onPick(named[0]!);
            else onKeyDown?.(event);
          },
        })}
      />
      <ul
        {...box.getMenuProps({ 'aria-label': label })}
        className={box.isOpen ? 'choices absolute top-full left-0' : ''}
      >
        {box.isOpen &&
          items.map((each, index) => (
            <li
              key={each.value}
              {...box.getItemProps({ item: each, index })}
              data-highlighted={box.highlightedIndex === index ? '' : undefined}
              className="choice-line"
            >
              <span className="truncate">{each.label}</span>
              {each.beside !== undefined && <span className="text-soft">{each.beside}</span>}
            </li>
          ))}
        {box.isOpen && nothing !== undefined && items.length === 0 && (
          <li className="px-2 py-1 text-soft">{nothing}</li>
        )}
      </ul>
    </div>
  );
}
