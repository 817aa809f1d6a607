import { useState, type ReactNode } from 'react';
import { ChevronsUpDown } from 'lucide-react';
import type { PortalDefinition } from '../../../core/definition/definition';
import { useMembers, type FoundMember } from '../../client/builder';
import { Button } from '../../ui/Button';
import { Popover } from '../../ui/Popover';
import { useBench, type BenchPerson } from './bench-context';

/** Whom Seen by shows. */
export function PersonChooser() {
  const { person, setPerson } = useBench();
  const initials = (person?.name ?? '?')
    .split(/\s+/)
    .map((word) => word[0])
    .slice(0, 2)
    .join('');
  return (
    <div className="border-b border-line bg-ground p-3">
      <Choice
        label="Choose a person"
        onChange={setPerson}
        trigger={
          <button
            type="button"
            data-person
            className="flex w-full items-center gap-3 rounded-stone p-1 text-left hover:bg-sunk"
          >
            <span
              aria-hidden
              className="grid size-9 place-items-center rounded-stone bg-lichen text-sm font-bold text-white"
            >
              {initials}
            </span>
            <span className="min-w-0 flex-1 leading-tight">
              <span className="block text-sm text-soft">Seen by</span>
              <strong className="block truncate">{person?.name ?? 'choose a person'}</strong>
            </span>
            <ChevronsUpDown size={16} aria-hidden className="text-soft" />
          </button>
        }
      />
      {person && (
        <p className="mt-1 text-xs text-soft">
          What you read as {person.name} is written in the audit log. Nothing you do here changes data.
        </p>
      )}
    </div>
  );
}

/** A person to choose, as a button. */
export function PersonPicker({
  label,
  person,
  onChange,
}: {
  label: string;
  person: BenchPerson | null;
  onChange: (person: BenchPerson) => void;
}) {
  return (
    <Choice
      label={label}
      onChange={onChange}
      trigger={
        <Button aria-label={person ? `${label}: ${person.name}` : label}>
          {person?.name ?? 'choose'} <ChevronsUpDown size={14} aria-hidden className="text-soft" />
        </Button>
      }
    />
  );
}

/** Found by name or e-mail among all members; a visitor and services where there are roles for them. */
function Choice({
  label,
  onChange,
  trigger,
}: {
  label: string;
  onChange: (person: BenchPerson) => void;
  trigger: ReactNode;
}) {
  const { slug, draft } = useBench();
  const [open, setOpen] = useState(false);
  const [search, setSearch] = useState('');
  const [size, setSize] = useState(12);
  const members = useMembers(slug, { search }, 0, size);
  const choose = (person: BenchPerson) => {
    onChange(person);
    setOpen(false);
  };
  const others: BenchPerson[] = [
    ...(draft.roles.some((role) => role.for === 'visitors') ? [{ id: 'visitor', name: 'a visitor' }] : []),
    ...draft.roles
      .filter((role) => role.for === 'services')
      .map((role) => ({ id: `service.${role.id}`, name: `the service ${role.name}` })),
  ];
  return (
    <Popover label={label} trigger={trigger} className="w-80" open={open} onOpenChange={setOpen}>
      <input
        type="search"
        aria-label="Find a member"
        placeholder="Find by name or e-mail"
        className="field"
        value={search}
        onChange={(event) => setSearch(event.target.value)}
      />
      {others.length > 0 && (
        <div className="mt-2 flex flex-wrap gap-1.5">
          {others.map((each) => (
            <Button key={each.id} small onClick={() => choose(each)}>
              {each.name}
            </Button>
          ))}
        </div>
      )}
      <ul className="mt-2 max-h-80 overflow-y-auto">
        {members.data?.members.map((member) => (
          <li key={member.id}>
            <button
              type="button"
              className="w-full rounded-stone px-2 py-1.5 text-left hover:bg-sunk"
              onClick={() => choose({ id: member.id, name: member.name })}
            >
              <span className="font-semibold">{member.name}</span>
              {member.state === 'suspended' && <span className="text-iron"> · suspended</span>}
              <br />
              <span className="text-sm text-soft">
                {member.email} · {rolesText(member, draft)}
              </span>
            </button>
          </li>
        ))}
        {members.data && members.data.total > members.data.members.length && size < 200 && (
          <li className="p-1">
            <Button small onClick={() => setSize((old) => Math.min(200, old + 40))}>
              Show more of {members.data.total.toLocaleString()}
            </Button>
          </li>
        )}
        {members.data && members.data.total > 200 && size >= 200 && (
          <li className="p-2 text-sm text-soft">
            {members.data.total.toLocaleString()} in all: find the others by name.
          </li>
        )}
        {members.data?.members.length === 0 && (
          <li className="p-2 text-soft">
            {members.data.total === 0 && search === ''
              ? 'There are no members yet: set a roster under People and refresh.'
              : 'Nobody is called so.'}
          </li>
        )}
      </ul>
    </Popover>
  );
}

/** The roles of a member by name, or why they have none. */
export function rolesText(member: FoundMember, draft: PortalDefinition): string {
  const names = member.roles.map((id) => draft.roles.find((role) => role.id === id)?.name ?? id);
  return names.join(', ') || (member.rosters.length === 0 ? 'no roster' : 'no role');
}
