import { circles, commentActs, type Circle, type Hung, type HungGrant } from '../../../core/definition/hung';
import type { PartProps } from './GrantParts';

const names: Record<Circle, string> = { forAll: 'For all', amongUs: 'Among us' };

const words: Record<Hung, Record<Circle | 'stand' | 'read' | 'write' | 'earlier', string>> = {
  comments: {
    forAll: 'Read by every role that reads comments here.',
    amongUs: 'An inner circle: what is said there is read by its roles alone, and never moves out.',
    stand: 'Comments stand',
    read: 'read',
    write: 'write',
    earlier: 'also what was written before a record was theirs, for a former owner, say',
  },
  files: {
    forAll: 'Opened by every role that opens files here.',
    amongUs: 'An inner circle: its files are opened by its roles alone, and never move out.',
    stand: 'Files stand',
    read: 'open',
    write: 'add',
    earlier: 'also those from before a record was theirs, from a former owner, say',
  },
};

const acts = { 'delete own': 'take out their own', 'delete any': 'take out any' } as const;

/** What a role may hang on the records that it sees, and what it reads of what others do. */
export default function GrantHung({
  what,
  table,
  role,
  grant,
  change,
}: Pick<PartProps, 'table' | 'role' | 'grant' | 'change'> & { what: Hung }) {
  const own = grant[what] ?? {};
  const said = words[what];
  const set = (recipe: (own: HungGrant) => HungGrant) =>
    void change(`Set what ${role.name} may do with ${what} on ${table.name}`, ({ [what]: was = {}, ...others }) => {
      const next = recipe(was);
      return next.forAll || next.amongUs ? { ...others, [what]: next } : others;
    });
  const read = (circle: Circle, may: boolean) =>
    set(({ [circle]: was = [], ...others }) => (may ? { ...others, [circle]: was } : others));
  if (!grant.see)
    return (
      <p className="text-soft">
        {said.stand} beside records that somebody sees. Say first which rows {role.name} sees.
      </p>
    );
  return (
    <div className="grid gap-3">
      {circles.map((circle) => (
        <fieldset key={circle} className="grid gap-1">
          <legend className="text-sm font-semibold">{names[circle]}</legend>
          <p className="text-sm text-soft">{said[circle]}</p>
          <div className="flex flex-wrap gap-x-4 gap-y-1">
            <Tick checked={own[circle] !== undefined} onChange={(may) => read(circle, may)}>
              {said.read}
            </Tick>
            {commentActs.map((act) => (
              <Tick
                key={act}
                disabled={own[circle] === undefined}
                checked={own[circle]?.includes(act) ?? false}
                onChange={(may) =>
                  set((was) => ({
                    ...was,
                    [circle]: commentActs.filter((each) => (each === act ? may : was[circle]?.includes(each))),
                  }))
                }
              >
                {act === 'write' ? said.write : acts[act]}
              </Tick>
            ))}
          </div>
        </fieldset>
      ))}
      {grant[what] && grant.see.where !== 'every row' && (
        <Tick
          checked={own.earlier ?? false}
          onChange={(may) => set(({ earlier: _was, ...others }) => (may ? { ...others, earlier: true } : others))}
        >
          {said.earlier}
        </Tick>
      )}
    </div>
  );
}

function Tick({
  checked,
  disabled = false,
  onChange,
  children,
}: {
  checked: boolean;
  disabled?: boolean;
  onChange: (checked: boolean) => void;
  children: string;
}) {
  return (
    <label className={`inline-flex min-h-6 items-center gap-1.5 ${disabled ? 'text-soft' : ''}`}>
      <input
        type="checkbox"
        checked={checked}
        disabled={disabled}
        onChange={(event) => onChange(event.target.checked)}
      />{' '}
      {children}
    </label>
  );
}
