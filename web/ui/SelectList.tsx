import {
  Children,
  Fragment,
  isValidElement,
  useState,
  type MouseEvent,
  type OptionHTMLAttributes,
  type ReactNode,
} from 'react';
import { Check, ChevronDown } from 'lucide-react';
import { Select } from 'radix-ui';
import type { SelectProps } from './select-props';

interface Option {
  value: string;
  text: string;
  disabled: boolean;
}
interface Group {
  label: string | null;
  options: Option[];
}

/** A value may be empty, which the list takes for "nothing is chosen". */
const sign = (value: string | number) => `=${value}`;

/** The choices in a list of our own, opened by a press or by keys. */
export default function SelectList({
  value,
  onPick,
  children,
  className,
  disabled,
  id,
  ...aria
}: SelectProps): ReactNode {
  const groups = groupsOf(children);
  const chosen = groups.flatMap((group) => group.options).find((option) => option.value === String(value));
  const [isOpen, setOpen] = useState(false);
  // A page has dozens of lists with dozens of choices each: they are drawn once somebody comes near, who may also
  // choose by typing while the list is closed.
  const [isNear, setNear] = useState(false);
  // The list takes the first release of the mouse for that of the press which opened it. Whoever is quicker than it
  // and presses a choice at once is not heard; the click that follows reaches a choice only then.
  const pressed = (event: MouseEvent, option: Option): void => {
    event.preventDefault();
    setOpen(false);
    if (option.value !== chosen?.value) onPick(option.value);
  };
  return (
    <Select.Root
      open={isOpen}
      onOpenChange={setOpen}
      value={chosen ? sign(chosen.value) : ''}
      disabled={disabled}
      onValueChange={(next) => onPick(next.slice(1))}
    >
      <Select.Trigger id={id} className={className} onFocus={() => setNear(true)} {...aria}>
        <span className="min-w-0 flex-1 truncate text-left">
          <Select.Value placeholder=" ">{chosen?.text || ' '}</Select.Value>
        </span>
        <ChevronDown size={14} aria-hidden className="shrink-0 text-soft" />
      </Select.Trigger>
      {(isNear || isOpen) && (
        <Select.Portal>
          <Select.Content position="popper" sideOffset={2} collisionPadding={8} className="choices">
            <Select.Viewport>
              {groups.map((group, i) => (
                <Select.Group key={i}>
                  {group.label !== null && <Select.Label className="choices-of">{group.label}</Select.Label>}
                  {group.options.map((option) => (
                    <Select.Item
                      key={option.value}
                      value={sign(option.value)}
                      textValue={option.text || 'nothing'}
                      disabled={option.disabled}
                      className="choice-line"
                      onClick={option.disabled ? undefined : (event) => pressed(event, option)}
                    >
                      <Select.ItemText>{option.text}</Select.ItemText>
                      <Select.ItemIndicator>
                        <Check size={14} aria-hidden />
                      </Select.ItemIndicator>
                    </Select.Item>
                  ))}
                </Select.Group>
              ))}
            </Select.Viewport>
          </Select.Content>
        </Select.Portal>
      )}
    </Select.Root>
  );
}

/** What stands in the options, group by group, in order. */
function groupsOf(children: ReactNode): Group[] {
  const groups: Group[] = [];
  const add = (node: ReactNode, label: string | null): void =>
    Children.forEach(node, (each) => {
      if (!isValidElement<OptionHTMLAttributes<unknown> & { children?: ReactNode }>(each)) return;
      if (each.type === Fragment) add(each.props.children, label);
      else if (each.type === 'optgroup') add(each.props.children, each.props.label ?? '');
      else if (each.type === 'option') {
        const text = textOf(each.props.children);
        let group = groups.at(-1);
        if (!group || group.label !== label) groups.push((group = { label, options: [] }));
        group.options.push({
          value: String(each.props.value ?? text),
          text,
          disabled: each.props.disabled ?? false,
        });
      } else throw new Error('Options stand here as they are: what a part would draw is not known yet.');
    });
  add(children, null);
  return groups;
}

function textOf(node: ReactNode): string {
  return Children.toArray(node)
    .map((each) =>
      typeof each === 'string' || typeof each === 'number'
        ? String(each)
        : isValidElement<{ children?: ReactNode }>(each)
          ? textOf(each.props.children)
          : '',
    )
    .join('');
}
