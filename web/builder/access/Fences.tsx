import { findTable } from '../../../core/table/catalogue';
import { Button } from '../../ui/Button';
import { Notice } from '../../ui/Notice';
import { useBench } from '../bench/bench-context';
import { firstCondition } from './choices';
import { ConditionEditor } from './ConditionEditor';
import { RoleTicks } from './RoleTicks';
import { freeId } from '../../../core/definition/free-id';

/** Conditions that narrow every role on a table. */
export function Fences() {
  const { draft, catalogue, edit } = useBench();
  const fences = draft.fences ?? [];
  const add = (name: string) =>
    void edit(`Fence ${name}`, (next) => {
      (next.fences ??= []).push({
        id: freeId(`${name}-fence`, next.fences),
        table: name,
        where: firstCondition(findTable(catalogue, name)!),
        exceptRoles: [],
      });
    });
  const change = (id: string, label: string, recipe: (fence: NonNullable<typeof draft.fences>[number]) => void) =>
    edit(label, (next) => recipe(next.fences!.find((each) => each.id === id)!));
  const remove = (id: string, table: string) =>
    void edit(`Take the fence off ${table}`, (next) => {
      next.fences = next.fences!.filter((each) => each.id !== id);
    });
  return (
    <>
      {fences.map((fence) => {
        const table = findTable(catalogue, fence.table);
        return (
          <section
            key={fence.id}
            aria-label={`Fence ${fence.id}`}
            className="grid gap-3 rounded-stone border border-line p-4"
          >
            <div className="flex items-center gap-3">
              <h2 className="mr-auto text-base">{fence.table}: nobody passes but</h2>
              <Button small onClick={() => remove(fence.id, fence.table)}>
                Remove<span className="sr-only"> the fence {fence.id}</span>
              </Button>
            </div>
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
          </section>
        );
      })}
      <AddOn words="a fence on" onAdd={add} />
    </>
  );
}

/** A choice of a table to make something for. */
export function AddOn({
  words,
  onAdd,
  only,
}: {
  words: string;
  onAdd: (table: string) => void;
  only?: (table: string) => boolean;
}) {
  const { catalogue } = useBench();
  return (
    <select
      className="field max-w-80"
      aria-label={`Add ${words}`}
      value=""
      onChange={(event) => {
        if (event.target.value) onAdd(event.target.value);
      }}
    >
      <option value="">add {words} …</option>
      {catalogue.tables
        .filter((table) => only?.(table.name) ?? true)
        .map((table) => (
          <option key={table.name}>{table.name}</option>
        ))}
    </select>
  );
}
