import { DropdownMenu } from 'radix-ui';
import type { MenuEntry, MenuProps } from './menu-entries';

/** The menu with its list; open from the start, since it comes when it is wanted. */
export default function MenuList({ button, align = 'start', entries }: MenuProps) {
  return (
    <DropdownMenu.Root defaultOpen>
      <DropdownMenu.Trigger asChild>
        <button type="button" {...button} />
      </DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content align={align} sideOffset={4} collisionPadding={8} className="panel min-w-52 p-1">
          <Entries entries={entries()} />
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  );
}

function Entries({ entries }: { entries: MenuEntry[] }) {
  return entries.map((entry, i) => {
    if ('line' in entry) return <DropdownMenu.Separator key={i} className="my-1 h-px bg-line" />;
    if ('words' in entry)
      return (
        <DropdownMenu.Label key={i} className="px-2 py-1 text-sm text-soft">
          {entry.words}
        </DropdownMenu.Label>
      );
    if ('within' in entry)
      return (
        <DropdownMenu.Sub key={entry.within}>
          <DropdownMenu.SubTrigger className="choice-line" disabled={entry.entries.length === 0}>
            {entry.within} …
          </DropdownMenu.SubTrigger>
          <DropdownMenu.Portal>
            <DropdownMenu.SubContent className="panel max-h-80 min-w-52 overflow-y-auto p-1">
              <Entries entries={entry.entries} />
            </DropdownMenu.SubContent>
          </DropdownMenu.Portal>
        </DropdownMenu.Sub>
      );
    return (
      <DropdownMenu.Item key={entry.key} className="choice-line justify-start" onSelect={entry.onSelect}>
        {entry.label}
      </DropdownMenu.Item>
    );
  });
}
