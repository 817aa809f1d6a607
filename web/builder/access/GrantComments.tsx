import { circles, commentActs, type Circle, type CommentsGrant } from '../../../core/definition/comments';
import type { PartProps } from './GrantParts';

const words: Record<Circle, { name: string; says: string }> = {
  forAll: { name: 'For all', says: 'Read by every role that reads comments here.' },
  amongUs: {
    name: 'Among us',
    says: 'An inner circle: what is said there is read by its roles alone, and never moves out.',
  },
};

const acts = { write: 'write', 'delete own': 'take out their own', 'delete any': 'take out any' } as const;

/** What a role may say beside the records that it sees, and what it reads of what others say. */
export default function GrantComments({
  table,
  role,
  grant,
  change,
}: Pick<PartProps, 'table' | 'role' | 'grant' | 'change'>) {
  const own = grant.comments ?? {};
  const set = (recipe: (comments: CommentsGrant) => CommentsGrant) =>
    void change(`Set what ${role.name} may do with comments on ${table.name}`, ({ comments = {}, ...others }) => {
      const next = recipe(comments);
      return next.forAll || next.amongUs ? { ...others, comments: next } : others;
    });
  const read = (circle: Circle, may: boolean) =>
    set(({ [circle]: was = [], ...others }) => (may ? { ...others, [circle]: was } : others));
  if (!grant.see)
    return (
      <p className="text-soft">
        Comments stand beside records that somebody sees. Say first which rows {role.name} sees.
      </p>
    );
  return (
    <div className="grid gap-3">
      {circles.map((circle) => (
        <fieldset key={circle} className="grid gap-1">
          <legend className="text-sm font-semibold">{words[circle].name}</legend>
          <p className="text-sm text-soft">{words[circle].says}</p>
          <div className="flex flex-wrap gap-x-4 gap-y-1">
            <Tick checked={own[circle] !== undefined} onChange={(may) => read(circle, may)}>
              read
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
                {acts[act]}
              </Tick>
            ))}
          </div>
        </fieldset>
      ))}
      {grant.comments && grant.see.where !== 'every row' && (
        <Tick
          checked={own.earlier ?? false}
          onChange={(may) => set(({ earlier: _was, ...others }) => (may ? { ...others, earlier: true } : others))}
        >
          also what was written before a record was theirs, for a former owner, say
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
