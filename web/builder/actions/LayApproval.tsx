import { useState } from 'react';
import { useNavigate } from 'react-router';
import { printPath } from '../../../core/definition/path';
import { findTable, type Table } from '../../../core/table/catalogue';
import {
  approvalProblem,
  firstState,
  guessedApproval,
  layApproval,
  reasonColumns,
  stateChoices,
  stateColumns,
  type Approval,
} from '../../../sections/lay-approval';
import { addressChoices, columnChoices } from '../access/choices';
import { RoleTicks } from '../access/RoleTicks';
import { useBench } from '../bench/bench-context';
import { useNames } from '../bench/names';
import { Button } from '../../ui/Button';
import { Dialog } from '../../ui/Dialog';
import { Field } from '../../ui/Field';
import { Notice } from '../../ui/Notice';
import { Select } from '../../ui/Select';

/** Lays down that records are submitted, and approved or sent back, in one press; all of it is changed afterwards. */
export function LayApproval() {
  const { draft, catalogue } = useBench();
  const names = useNames();
  const [open, setOpen] = useState(false);
  const [name, setName] = useState<string | null>(null);
  const tables = catalogue.tables.filter((table) => table.key.length > 0 && firstState(draft, table) !== null);
  const picked = tables.find((table) => table.name === name) ?? tables[0];
  return (
    <Dialog
      wide
      title="An approval"
      says="Somebody submits, somebody else approves or sends it back with the reason. Both are written to."
      open={open}
      onOpenChange={setOpen}
      trigger={
        <Button small className="justify-self-start">
          Lay down an approval …
        </Button>
      }
    >
      {picked ? (
        <div className="grid gap-3">
          <Field label="Of records of">
            {(ids) => (
              <Select {...ids} value={picked.name} onPick={setName}>
                {tables.map((table) => (
                  <option key={table.name} value={table.name}>
                    {names.table(table.name)}
                  </option>
                ))}
              </Select>
            )}
          </Field>
          <Choice key={picked.name} table={picked} onClose={() => setOpen(false)} />
        </div>
      ) : (
        <Notice kind="say">
          An approval needs a column with three choices at least: what is drafted, what waits, and what is approved.
          Give a table one under Data.
        </Notice>
      )}
    </Dialog>
  );
}

const stateFields = [
  ['begins', 'Begins as'],
  ['submitted', 'Waits as'],
  ['approved', 'Approved as'],
] as const;

function Choice({ table, onClose }: { table: Table; onClose: () => void }) {
  const { draft, catalogue, edit, to } = useBench();
  const names = useNames();
  const navigate = useNavigate();
  const columns = stateColumns(draft, table);
  const [chosen, setChosen] = useState(() => guessedApproval(draft, table, columns[0]!));
  const [problem, setProblem] = useState<string | null>(null);
  const set = (change: Partial<Approval>) => setChosen((before) => ({ ...before, ...change }));
  const states = stateChoices(table, chosen.column);
  const addresses = addressChoices(columnChoices(catalogue, table));
  const sees = (id: string) => draft.access[table.name]?.[id]?.see !== undefined;
  const lay = async () => {
    const wrong = approvalProblem(chosen);
    if (wrong) return setProblem(wrong);
    let page: string | null = null;
    const failed = await edit(`Lay down an approval of ${names.tableInText(table.name)}`, (next) => {
      page = layApproval(next, catalogue, findTable(catalogue, table.name)!, chosen);
    });
    if (failed !== null) return setProblem(failed);
    onClose();
    if (page !== null) void navigate(to('pages', page));
  };
  return (
    <>
      {columns.length > 1 && (
        <Field label="Its state stands in">
          {(ids) => (
            <Select
              {...ids}
              value={chosen.column}
              onPick={(column) =>
                setChosen(
                  guessedApproval(
                    draft,
                    table,
                    columns.find(({ name }) => name === column)!,
                  ),
                )
              }
            >
              {columns.map(({ name }) => (
                <option key={name} value={name}>
                  {names.column(table.name, name)}
                </option>
              ))}
            </Select>
          )}
        </Field>
      )}
      <div className="grid gap-3 sm:grid-cols-3">
        {stateFields.map(([key, label]) => (
          <Field key={key} label={label}>
            {(ids) => (
              <Select {...ids} value={chosen[key]} onPick={(state) => set({ [key]: state })}>
                {states.map((state) => (
                  <option key={state} value={state}>
                    {state}
                  </option>
                ))}
              </Select>
            )}
          </Field>
        ))}
      </div>
      <RoleTicks
        legend="Who submits"
        ticked={chosen.submitters}
        fits={({ id }) => sees(id)}
        onChange={(tick) => set({ submitters: tick(chosen.submitters) })}
      />
      <RoleTicks
        legend="Who approves"
        ticked={chosen.approvers}
        fits={({ id, for: whom = 'members' }) => whom === 'members' && sees(id)}
        onChange={(tick) => set({ approvers: tick(chosen.approvers) })}
      />
      <RoleTicks
        legend="Who sees approved ones alone"
        ticked={chosen.readers}
        fits={({ id }) => sees(id) && !chosen.submitters.includes(id) && !chosen.approvers.includes(id)}
        onChange={(tick) => set({ readers: tick(chosen.readers) })}
      />
      <Field label="Why it is sent back goes into">
        {(ids) => (
          <Select {...ids} value={chosen.reason ?? ''} onPick={(name) => set({ reason: name === '' ? null : name })}>
            <option value="">nowhere: nobody is asked</option>
            {reasonColumns(table).map(({ name }) => (
              <option key={name} value={name}>
                {names.column(table.name, name)}
              </option>
            ))}
          </Select>
        )}
      </Field>
      {addresses.length > 0 && (
        <Field label="Whoever submitted is written to at">
          {(ids) => (
            <Select
              {...ids}
              value={chosen.writesTo === null ? '' : printPath(chosen.writesTo)}
              onPick={(path) =>
                set({ writesTo: addresses.find((each) => printPath(each.path) === path)?.path ?? null })
              }
            >
              <option value="">nowhere</option>
              {addresses.map(({ path }) => (
                <option key={printPath(path)} value={printPath(path)}>
                  {names.path(table.name, printPath(path))}
                </option>
              ))}
            </Select>
          )}
        </Field>
      )}
      {problem && <Notice kind="fault">{problem}</Notice>}
      <Button weight="main" className="justify-self-start" onClick={() => void lay()}>
        Lay it down
      </Button>
    </>
  );
}
