import { DropdownMenu } from 'radix-ui';
import { ChevronDown } from 'lucide-react';
import type { Role } from '../../../core/definition/definition';
import type { Table } from '../../../core/table/catalogue';
import { Stones, type Level } from '../../ui/Stones';
import { useBench } from '../bench/bench-context';
import { copyRules, levels } from './set-level';

const item = 'flex cursor-pointer items-center gap-2 rounded-stone px-2 py-1 outline-none data-highlighted:bg-sunk';
const box = 'z-30 min-w-52 rounded-stone border border-line-strong bg-paper p-1 text-ink';

/** What can be done with a whole role: its columns of the table in hand set at once, or its rules given to another. */
export function RoleMenu({
  role,
  table,
  onSet,
}: {
  role: Role;
  table: Table | null;
  onSet: (level: Level, table: Table) => void;
}) {
  const { draft, edit } = useBench();
  const others = draft.roles.filter((each) => each.id !== role.id);
  const copy = (to: Role, only: string | null) =>
    void edit(`Give ${to.name} what ${role.name} has${only === null ? '' : ` on ${only}`}`, (next) =>
      copyRules(next, role.id, to.id, only),
    );
  return (
    <DropdownMenu.Root>
      <DropdownMenu.Trigger
        className="flex w-full items-center gap-1 rounded-stone px-1.5 py-1 text-left hover:bg-sunk"
        aria-label={`Role ${role.name}`}
      >
        <span className="min-w-0 flex-1 truncate font-head font-bold" title={role.name}>
          {role.name}
        </span>
        <ChevronDown size={14} aria-hidden className="shrink-0 text-soft" />
      </DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content align="start" className={box}>
          {table && (
            <>
              <DropdownMenu.Label className="px-2 py-1 text-sm text-soft">
                All columns of {table.name}
              </DropdownMenu.Label>
              {levels.map((level) => (
                <DropdownMenu.Item key={level} className={item} onSelect={() => onSet(level, table)}>
                  <Stones level={level} /> {level}
                </DropdownMenu.Item>
              ))}
              <DropdownMenu.Separator className="my-1 h-px bg-line" />
              <CopyTo
                words={`Give its rules on ${table.name} to`}
                roles={others}
                onCopy={(to) => copy(to, table.name)}
              />
            </>
          )}
          <CopyTo words="Give all its rules to" roles={others} onCopy={(to) => copy(to, null)} />
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  );
}

function CopyTo({ words, roles, onCopy }: { words: string; roles: Role[]; onCopy: (to: Role) => void }) {
  return (
    <DropdownMenu.Sub>
      <DropdownMenu.SubTrigger className={item} disabled={roles.length === 0}>
        {words} …
      </DropdownMenu.SubTrigger>
      <DropdownMenu.Portal>
        <DropdownMenu.SubContent className={`${box} max-h-80 overflow-y-auto`}>
          {roles.map((each) => (
            <DropdownMenu.Item key={each.id} className={item} onSelect={() => onCopy(each)}>
              {each.name}
            </DropdownMenu.Item>
          ))}
        </DropdownMenu.SubContent>
      </DropdownMenu.Portal>
    </DropdownMenu.Sub>
  );
}
