import { describeCondition } from '../../../core/condition/describe';
import { findTable } from '../../../core/table/catalogue';
import { Notice } from '../../ui/Notice';
import { useBench } from '../bench/bench-context';
import { firstCondition } from './choices';
import { ConditionEditor } from './ConditionEditor';
import { useNames, useNaming } from '../bench/names';
import { AddOn } from './AddOn';
import { RoleTicks } from './RoleTicks';
import { Rule, RuleList, someOf, useOpenRule } from './RuleList';
import { freeId } from '../../../core/definition/free-id';

/** Conditions that narrow every role on a table. */
export function Fences() {
  const { draft, catalogue, edit } = useBench();
  const fences = draft.fences ?? [];
  const names = useNames();
  const naming = useNaming();
  const { setOpen } = useOpenRule();
  const add = (name: string) => {
    const id = freeId(`${name}-fence`, fences);
    void edit(`Fence ${name}`, (next) => {
      const where = firstCondition(findTable(catalogue, name)!);
      (next.fences ??= []).push({ id, table: name, where, exceptRoles: [] });
    }).then((problem) => problem === null && setOpen(id));
  };
  const change = (id: string, label: string, recipe: (fence: NonNullable<typeof draft.fences>[number]) => void) =>
    edit(label, (next) => recipe(next.fences!.find((each) => each.id === id)!));
  const remove = (id: string, table: string) =>
    void edit(`Take the fence off ${table}`, (next) => {
      next.fences = next.fences!.filter((each) => each.id !== id);
    });
  return (
    <>
      {fences.length > 0 && (
        <RuleList>
          {fences.map((fence) => {
            const table = findTable(catalogue, fence.table);
            return (
              <Rule
                key={fence.id}
                id={fence.id}
                kind="Fence"
                sentence={
                  <>
                    <strong>{names.table(fence.table)}</strong>: nobody passes but where{' '}
                    {describeCondition(fence.where, naming(fence.table))}
                    {fence.exceptRoles.length > 0 && `; ${someOf(fence.exceptRoles.map(names.role))} pass all the same`}
                  </>
                }
                loses={`Every role then sees of ${names.table(fence.table)} what its own row filter lets through.`}
                onRemove={() => remove(fence.id, fence.table)}
              >
                {table ? (
                  <ConditionEditor
                    table={table}
                    name={`Fence ${fence.id}`}
                    value={fence.where}
                    onChange={(where) =>
                      change(fence.id, `Set the fence of ${fence.table}`, (next) => {
                        next.where = where;
                      })
                    }
                  />
                ) : (
                  <Notice kind="fault">There is no table {fence.table} any more.</Notice>
                )}
                <RoleTicks
                  legend="Exempt roles"
                  ticked={fence.exceptRoles}
                  onChange={(tick) =>
                    void change(fence.id, `Set who is exempt from the fence of ${fence.table}`, (next) => {
                      next.exceptRoles = tick(next.exceptRoles);
                    })
                  }
                />
              </Rule>
            );
          })}
        </RuleList>
      )}
      <AddOn words="a fence on" onAdd={add} />
    </>
  );
}
