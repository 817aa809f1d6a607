import { useState } from 'react';
import { useNavigate } from 'react-router';
import { counted } from '../../../core/text/counted';
import { layDown, proposals, type Layable, type Proposal } from '../../../sections/lay-down';
import { Button } from '../../ui/Button';
import { Dialog } from '../../ui/Dialog';
import { Field } from '../../ui/Field';
import { Select } from '../../ui/Select';
import { useBench } from '../bench/bench-context';
import { useNames } from '../bench/names';

const says: Record<Layable, (table: string) => string> = {
  'about me': () => 'About me: what you hold of whoever looks, as one record',
  dashboard: (table) => `At a glance: numbers and drawings of ${table}, over a list of them`,
  list: (table) => `${table}: a list, each opening as its record`,
  cards: (table) => `${table} as cards with their picture`,
};

/** Drafts pages from what a role sees, in one press; each is then changed as any other. */
export default function LayDown({ onClose }: { onClose: () => void }) {
  const { draft } = useBench();
  const roles = draft.roles.filter((role) => role.for !== 'services');
  const bare = roles.find(({ id }) => draft.pages.every(({ audience }) => !audience.roles.includes(id)));
  const [role, setRole] = useState(bare?.id ?? roles[0]?.id ?? '');
  return (
    <Dialog title="Lay down pages" open onOpenChange={onClose}>
      <Field label="For the role">
        {(ids) => (
          <Select {...ids} value={role} onPick={setRole}>
            {roles.map(({ id, name }) => (
              <option key={id} value={id}>
                {name}
              </option>
            ))}
          </Select>
        )}
      </Field>
      <Choice key={role} role={role} onClose={onClose} />
    </Dialog>
  );
}

const isFirst = ({ what }: Proposal): boolean => what === 'about me' || what === 'dashboard';

function Choice({ role, onClose }: { role: string; onClose: () => void }) {
  const { draft, catalogue, edit, to } = useBench();
  const names = useNames();
  const navigate = useNavigate();
  const [all] = useState(() => proposals(draft, catalogue, role));
  const [chosen, setChosen] = useState(() => all.filter((each) => isFirst(each) || each.what === 'list').slice(0, 4));
  const [problem, setProblem] = useState<string | null>(null);
  if (all.length === 0)
    return (
      <p className="text-soft">
        {names.role(role)} sees no table yet. Say under Access which rows and columns it sees; pages show them.
      </p>
    );
  const lay = async () => {
    const before = draft.pages.length;
    let first: string | undefined;
    const refused = await edit(`Lay down ${counted(chosen.length, 'page')} for ${names.role(role)}`, (next) => {
      layDown(
        next,
        all.filter((each) => chosen.includes(each)),
      );
      first = next.pages[before]?.id;
    });
    if (refused !== null) return setProblem(refused);
    onClose();
    if (first !== undefined) void navigate(to('pages', first));
  };
  return (
    <>
      <fieldset className="grid gap-0.5">
        <legend className="mb-1 text-sm font-semibold">Pages, made of what {names.role(role)} sees</legend>
        <div className="grid max-h-[50vh] overflow-y-auto">
          {all.map((each) => (
            <label key={`${each.what} ${each.table}`} className="inline-flex min-h-7 items-center gap-2">
              <input
                type="checkbox"
                checked={chosen.includes(each)}
                onChange={(event) =>
                  setChosen(event.target.checked ? [...chosen, each] : chosen.filter((other) => other !== each))
                }
              />{' '}
              {says[each.what](names.table(each.table))}
            </label>
          ))}
        </div>
      </fieldset>
      {problem !== null && (
        <p role="alert" className="font-medium text-iron">
          {problem}
        </p>
      )}
      <div className="flex gap-2">
        <Button weight="main" disabled={chosen.length === 0} onClick={() => void lay()}>
          Lay down {counted(chosen.length, 'page')}
        </Button>
      </div>
    </>
  );
}
