import type { NamedPeople } from '../../client/rehearsal';
import { Button } from '../../ui/Button';
import { Popover } from '../../ui/Popover';
import { useBench } from './bench-context';

/** How many, and behind it who: each leads to what they would see. */
export function Who({ people, none }: { people: NamedPeople; none: string }) {
  const { setPerson } = useBench();
  if (people.count === 0) return <span className="text-soft">{none}</span>;
  return (
    <Popover
      label="Who"
      className="grid max-h-96 w-72 gap-1 overflow-y-auto"
      trigger={<Button small>{people.count.toLocaleString()}</Button>}
    >
      <p className="text-sm text-soft">Press one to see the draft as they get it.</p>
      <ul className="grid">
        {people.first.map(({ id, name }) => (
          <li key={id ?? 'visitor'}>
            <button
              type="button"
              className="min-h-7 w-full rounded-stone px-1 text-left hover:bg-sunk"
              onClick={() => setPerson({ id: id ?? 'visitor', name })}
            >
              {name}
            </button>
          </li>
        ))}
      </ul>
      {people.count > people.first.length && (
        <p className="text-sm text-soft">And {(people.count - people.first.length).toLocaleString()} more.</p>
      )}
    </Popover>
  );
}
