import { useNavigate } from 'react-router';
import { actionsOf } from '../../../core/definition/action';
import type { Page } from '../../../core/definition/definition';
import { Button } from '../../ui/Button';
import { useBench } from '../bench/bench-context';
import { useNames } from '../bench/names';
import { newAction, rolesSeeing } from './action-edits';

/** The actions whose buttons stand at each record; a new one is made for whom the page is. */
export function RecordButtons({
  page,
  section: of,
  table,
  ticked,
  onChange,
}: {
  page: Page;
  /** The list's id. */
  section: string;
  table: string;
  ticked: readonly string[];
  onChange: (ticked: string[]) => void;
}) {
  const { draft, edit, to } = useBench();
  const actions = actionsOf(draft.actions, table);
  const navigate = useNavigate();
  const names = useNames();
  const add = async () => {
    const made = newAction(draft, table, names.tableInText(table), rolesSeeing(draft, table, page.audience.roles));
    const problem = await edit(`Add a button at each record of ${page.title}`, (next) => {
      (next.actions ??= []).push(made);
      const list = next.pages.find(({ id }) => id === page.id)?.sections.find(({ id }) => id === of);
      if (list?.kind === 'list' || list?.kind === 'cards') (list.acts ??= []).push(made.id);
    });
    if (problem === null) void navigate(to('pages', '!actions', { rule: made.id }));
  };
  return (
    <fieldset>
      <legend className="text-sm font-semibold">Buttons at each record</legend>
      <div className="flex flex-wrap items-center gap-x-4 gap-y-1">
        {actions.map(({ id, name }) => (
          <label key={id} className="inline-flex min-h-6 items-center gap-1.5">
            <input
              type="checkbox"
              checked={ticked.includes(id)}
              onChange={(event) =>
                onChange(
                  actions
                    .map((each) => each.id)
                    .filter((each) => (each === id ? event.target.checked : ticked.includes(each))),
                )
              }
            />{' '}
            {name}
          </label>
        ))}
        <Button small onClick={() => void add()}>
          + action
        </Button>
      </div>
    </fieldset>
  );
}
