import { useState } from 'react';
import { Popover } from 'radix-ui';
import { ChevronsUpDown } from 'lucide-react';
import { useMembers } from '../client/builder';
import { useBench } from './bench-context';

/** Whom Seen by shows: found by name or e-mail among all members. */
export function PersonChooser() {
  const { slug, person, setPerson, draft } = useBench();
  const [open, setOpen] = useState(false);
  const [search, setSearch] = useState('');
  const members = useMembers(slug, search, null, 0, 12);
  const initials = (person?.name ?? '?').split(/\s+/).map((word) => word[0]).slice(0, 2).join('');
  return (
    <div className="border-b border-line bg-ground p-3">
      <Popover.Root open={open} onOpenChange={setOpen}>
        <Popover.Trigger data-person className="flex w-full items-center gap-3 rounded-stone p-1 text-left hover:bg-sunk">
          <span aria-hidden className="grid size-9 place-items-center rounded-stone bg-lichen text-sm font-bold text-white">{initials}</span>
          <span className="min-w-0 flex-1 leading-tight"><span className="block text-sm text-soft">Seen by</span><strong className="block truncate">{person?.name ?? 'choose a person'}</strong></span>
          <ChevronsUpDown size={16} aria-hidden className="text-soft" />
        </Popover.Trigger>
        <Popover.Portal>
          <Popover.Content align="start" sideOffset={4} className="z-30 w-80 rounded-stone border border-line-strong bg-paper p-2" aria-label="Choose a person">
            <input type="search" aria-label="Find a member" placeholder="Find by name or e-mail" className="field" value={search} onChange={(event) => setSearch(event.target.value)} />
            <ul className="mt-2 max-h-80 overflow-y-auto">
              {members.data?.members.map((member) => (
                <li key={member.id}>
                  <button type="button" className="w-full rounded-stone px-2 py-1.5 text-left hover:bg-sunk" onClick={() => { setPerson({ id: member.id, name: member.name }); setOpen(false); }}>
                    <span className="font-semibold">{member.name}</span>{!member.active && <span className="text-iron"> · suspended</span>}<br />
                    <span className="text-sm text-soft">{member.email} · {member.rosters.map((roster) => roleOf(draft, roster)).join(', ') || 'no roster'}</span>
                  </button>
                </li>
              ))}
              {members.data?.members.length === 0 && <li className="p-2 text-soft">{members.data.total === 0 && search === '' ? 'There are no members yet: set a roster under People and refresh.' : 'Nobody is called so.'}</li>}
            </ul>
          </Popover.Content>
        </Popover.Portal>
      </Popover.Root>
    </div>
  );
}

function roleOf(draft: ReturnType<typeof useBench>['draft'], rosterTable: string): string {
  const role = draft.rosters.find((roster) => roster.table === rosterTable)?.role;
  return draft.roles.find((each) => each.id === role)?.name ?? rosterTable;
}
