import type { Action, SetOff } from '../../../core/definition/action';
import type { PortalDefinition } from '../../../core/definition/definition';
import { freeId } from '../../../core/definition/free-id';
import { isClosed, type Table } from '../../../core/table/catalogue';
import { Field } from '../../ui/Field';
import { Notice } from '../../ui/Notice';
import { Select } from '../../ui/Select';
import { useBench } from '../bench/bench-context';
import { useNames } from '../bench/names';
import { TimedRuns } from '../timed/TimedRuns';
import { TimeField } from '../timed/TimeField';
import { setOffWords } from './set-off-words';

const keyOf = (on: SetOff | undefined): string =>
  on === undefined
    ? 'press'
    : on.what === 'moved' && on.move !== undefined
      ? `moved ${on.move}`
      : on.what === 'made' && on.form !== undefined
        ? `sent ${on.form}`
        : on.what;

/** Whether an action is done by a press, or by itself, and by which service then. */
export function SetOffEdit({ action, table }: { action: Action; table: Table }) {
  const { draft, edit } = useBench();
  const names = useNames();
  const services = draft.roles.filter((role) => role.for === 'services');
  const moves = draft.lifecycles?.find((each) => each.table === table.name)?.moves ?? [];
  const forms = (draft.forms ?? []).filter((form) => form.table === table.name && !form.changes && !form.anonymous);
  const change = (label: string, recipe: (action: Action, draft: PortalDefinition) => void) =>
    void edit(label, (next) =>
      recipe(
        next.actions!.find(({ id }) => id === action.id)!,
        next,
      ),
    );
  const offered: { key: string; on: SetOff | undefined }[] = [
    { key: 'press', on: undefined },
    { key: 'made', on: { what: 'made' as const } },
    ...forms.map(({ id }) => ({ key: `sent ${id}`, on: { what: 'made' as const, form: id } })),
    { key: 'changed', on: { what: 'changed' as const } },
    ...(moves.length > 0 ? [{ key: 'moved', on: { what: 'moved' as const } }] : []),
    ...moves.map(({ id }) => ({ key: `moved ${id}`, on: { what: 'moved' as const, move: id } })),
    { key: 'deleted', on: { what: 'deleted' as const } },
    { key: 'time', on: { what: 'time' as const, at: '06:00' } },
  ];
  const word = (on: SetOff | undefined) =>
    on === undefined ? 'by a press' : `by itself, ${setOffWords(on, names.tableInText(table.name), moves, forms)}`;
  const picked = keyOf(action.on);
  const pick = (key: string) => {
    const found = offered.find((each) => each.key === key);
    if (!found || key === picked) return;
    change(`Let ${action.name} be done ${word(found.on)}`, (next, whole) => {
      if (found.on === undefined) {
        delete next.on;
        next.roles = [];
        return;
      }
      const seeing = services.find(({ id }) => whole.access[table.name]?.[id]?.see);
      if (!next.on) next.roles = [seeing?.id ?? newService(whole, table)];
      next.on = found.on;
      delete next.several;
      delete next.confirm;
      delete next.says;
    });
  };
  return (
    <>
      <Field label="It is done">
        {(ids) => (
          <Select className="max-w-120" {...ids} value={picked} onPick={pick}>
            {!offered.some(({ key }) => key === picked) && <option value={picked}>by something that is gone</option>}
            {offered.map(({ key, on }) => (
              <option key={key} value={key}>
                {on?.what === 'time' ? 'by itself, each day at a time' : word(on)}
              </option>
            ))}
          </Select>
        )}
      </Field>
      {action.on?.what === 'time' && (
        <TimeField
          label="At"
          value={action.on.at}
          onChange={(at) =>
            change(`Let ${action.name} be done at ${at}`, (next) => {
              next.on = { what: 'time', at };
            })
          }
        />
      )}
      {action.on && (
        <>
          <Field label="As the service" hint="It is done with the records that this service sees, whoever sets it off.">
            {(ids) => (
              <Select
                className="max-w-80"
                {...ids}
                value={action.roles[0] ?? ''}
                onPick={(role) =>
                  change(`Choose who does ${action.name}`, (next, whole) => {
                    next.roles = [role === '+' ? newService(whole, table) : role];
                  })
                }
              >
                {!services.some(({ id }) => id === action.roles[0]) && (
                  <option value={action.roles[0] ?? ''}>a role that is none for services</option>
                )}
                {services.map(({ id, name }) => (
                  <option key={id} value={id}>
                    {name}
                  </option>
                ))}
                <option value="+">a new one that sees all of {names.tableInText(table.name)}</option>
              </Select>
            )}
          </Field>
          {action.on.what === 'time' ? (
            <>
              <Notice kind="say">
                It is done once a day with every record for which its condition holds then, each by itself, from the
                first time after it is published.
              </Notice>
              <TimedRuns kind="action" subject={action.id} />
            </>
          ) : (
            <>
              <Notice kind="say">
                It follows in the same breath as what sets it off: where it can&apos;t be done, neither is that.
                Hand-overs and what builders do with all records set nothing off.
              </Notice>
              {action.on.what !== 'deleted' && (
                <label className="inline-flex min-h-6 items-center gap-2">
                  <input
                    type="checkbox"
                    checked={action.on.brought === true}
                    onChange={(event) => {
                      const also = event.target.checked;
                      change(`Set whether ${action.name} is done of records that are brought`, (next) => {
                        if (!next.on || next.on.what === 'deleted' || next.on.what === 'time') return;
                        if (also) next.on.brought = true;
                        else delete next.on.brought;
                      });
                    }}
                  />{' '}
                  Also of records that come by a file or from an address
                </label>
              )}
            </>
          )}
        </>
      )}
    </>
  );
}

/** A service that nobody has a key to, and that sees every record of the table. */
function newService(draft: PortalDefinition, table: Table): string {
  const id = freeId('by itself', draft.roles);
  draft.roles.push({ id, name: 'By itself', for: 'services' });
  const columns = table.columns.filter(({ name, type }) => type !== 'other' && !isClosed(table, name));
  (draft.access[table.name] ??= {})[id] = { see: { where: 'every row', columns: columns.map(({ name }) => name) } };
  return id;
}
