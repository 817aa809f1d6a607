import type { Action, SetOff } from '../../../core/definition/action';
import { findTable, type Table } from '../../../core/table/catalogue';
import { Notice } from '../../ui/Notice';
import { AddOn } from '../access/AddOn';
import { Rule, RuleList, useOpenRule } from '../access/RuleList';
import { useBench } from '../bench/bench-context';
import { useNames } from '../bench/names';
import { StageHead } from '../bench/StageFrame';
import { newAction } from './action-edits';
import { ActionEdit } from './ActionEdit';
import { LayApproval } from './LayApproval';
import { setOffWords } from './set-off-words';

/** What people may do with records by a press. */
export default function ActionsScreen() {
  const { draft, catalogue, edit } = useBench();
  const names = useNames();
  const { setOpen } = useOpenRule();
  const all = draft.actions ?? [];
  const movesOf = (table: string) => draft.lifecycles?.find((each) => each.table === table)?.moves ?? [];
  const add = (table: string) => {
    const made = newAction(draft, table, names.tableInText(table), []);
    void edit(`Add an action on ${names.tableInText(table)}`, (next) => {
      (next.actions ??= []).push(made);
    }).then((problem) => problem === null && setOpen(made.id));
  };
  const whenDone = ({ table }: Action, on: SetOff): string =>
    setOffWords(on, names.tableInText(table), movesOf(table), draft.forms);
  return (
    <>
      <StageHead title="Actions" />
      <div className="grid gap-4 p-4">
        <p className="max-w-160 text-soft">
          An action is a button: pressed, it changes the record, makes others, or moves it on. It is a right of its own.
          Whoever has it may write what the action writes, and nothing else. It can be done by itself as well, when
          something happens to a record.
        </p>
        {all.length > 0 && (
          <RuleList>
            {all.map((action) => {
              const table = findTable(catalogue, action.table);
              return (
                <Rule
                  key={action.id}
                  id={action.id}
                  kind="Action"
                  sentence={
                    <>
                      <strong>{action.name}</strong>,{' '}
                      {action.on ? whenDone(action, action.on) : `with ${names.tableInText(action.table)}`}
                      {action.roles.length > 0 ? `, by ${names.roles(action.roles)}` : ', by nobody yet'}
                    </>
                  }
                  loses={`Nobody can press “${action.name}” any more. What was done by it stays.`}
                  onRemove={() =>
                    void edit(`Remove the action ${action.name}`, (next) => {
                      next.actions = next.actions!.filter((each) => each.id !== action.id);
                      if (next.actions.length === 0) delete next.actions;
                    })
                  }
                >
                  {table ? (
                    <ActionEdit action={action} table={table} />
                  ) : (
                    <Notice kind="fault">There is no table {action.table} any more.</Notice>
                  )}
                </Rule>
              );
            })}
          </RuleList>
        )}
        <LayApproval />
        <AddOn words="an action with a record of" onAdd={add} only={(table) => keyed(findTable(catalogue, table))} />
      </div>
    </>
  );
}

const keyed = (table: Table | undefined) => (table?.key.length ?? 0) > 0;
