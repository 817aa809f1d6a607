import { ChevronDown } from 'lucide-react';
import type { Role } from '../../../core/definition/definition';
import type { Table } from '../../../core/table/catalogue';
import { hint } from '../../ui/hint';
import { Menu } from '../../ui/Menu';
import type { MenuEntry } from '../../ui/menu-entries';
import { Stones, type Level } from '../../ui/Stones';
import { useBench } from '../bench/bench-context';
import { useNames } from '../bench/names';
import { copyRules, levels } from './set-level';

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
  const names = useNames();
  const others = draft.roles.filter((each) => each.id !== role.id);
  const copy = (to: Role, only: string | null) =>
    void edit(`Give ${to.name} what ${role.name} has${only === null ? '' : ` on ${only}`}`, (next) =>
      copyRules(next, role.id, to.id, only),
    );
  const copyTo = (within: string, only: string | null): MenuEntry => ({
    within,
    entries: others.map((each) => ({ key: each.id, label: each.name, onSelect: () => copy(each, only) })),
  });
  return (
    <Menu
      button={{
        className: 'flex w-full items-center gap-1 rounded-stone px-1.5 py-1 text-left hover:bg-sunk',
        'aria-label': `Role ${role.name}`,
        ...hint(role.name),
        children: (
          <>
            <span className="min-w-0 flex-1 truncate font-head font-bold">{role.name}</span>
            <ChevronDown size={14} aria-hidden className="shrink-0 text-soft" />
          </>
        ),
      }}
      entries={() => [
        ...(table
          ? [
              { words: `All columns of ${names.table(table.name)}` },
              ...levels.map((level) => ({
                key: level,
                label: (
                  <>
                    <Stones level={level} /> {level}
                  </>
                ),
                onSelect: () => onSet(level, table),
              })),
              { line: true as const },
              copyTo(`Give its rules on ${names.table(table.name)} to`, table.name),
            ]
          : []),
        copyTo('Give all its rules to', null),
      ]}
    />
  );
}
