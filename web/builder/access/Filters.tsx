import { counted } from '../../../core/text/counted';
import { describeCondition } from '../../../core/condition/describe';
import type { NamedFilter } from '../../../core/definition/definition';
import { namedFilterUses } from '../../../core/definition/named-filter-uses';
import { freeId } from '../../../core/definition/free-id';
import { findTable } from '../../../core/table/catalogue';
import { Field } from '../../ui/Field';
import { Notice } from '../../ui/Notice';
import { useBench } from '../bench/bench-context';
import { useNames, useNaming } from '../bench/names';
import { AddOn } from './AddOn';
import { firstCondition } from './choices';
import { ConditionEditor } from './ConditionEditor';
import { Rule, RuleList, useOpenRule } from './RuleList';

/** Conditions that are kept under a name with their table, and are the same wherever they are used. */
export function Filters() {
  const { draft, catalogue, edit } = useBench();
  const names = useNames();
  const naming = useNaming();
  const { setOpen } = useOpenRule();
  const all = Object.entries(draft.tables).flatMap(([table, notes]) =>
    Object.entries(notes.filters ?? {}).map(([id, filter]) => ({ table, id, filter, key: `${table}/${id}` })),
  );
  const add = (table: string) => {
    const taken = Object.keys(draft.tables[table]?.filters ?? {}).map((id) => ({ id }));
    const id = freeId('filter', taken);
    void edit(`Keep a filter of ${table}`, (next) => {
      const notes = (next.tables[table] ??= {});
      const where = firstCondition(findTable(catalogue, table)!);
      notes.filters = { ...notes.filters, [id]: { name: `New filter ${taken.length + 1}`, where } };
    }).then((problem) => problem === null && setOpen(`${table}/${id}`));
  };
  const change = (table: string, id: string, label: string, recipe: (filter: NamedFilter) => void) =>
    // What is named after it changes with it: the server keeps them the same.
    edit(label, (next) => recipe(next.tables[table]!.filters![id]!));
  const remove = (table: string, id: string) =>
    void edit(`Take the name off a filter of ${table}`, (next) => {
      const { [id]: _gone, ...rest } = next.tables[table]!.filters!;
      if (Object.keys(rest).length > 0) next.tables[table]!.filters = rest;
      else delete next.tables[table]!.filters;
    });
  return (
    <>
      {all.length > 0 && (
        <RuleList>
          {all.map(({ table: name, id, filter, key }) => {
            const table = findTable(catalogue, name);
            const places = counted(namedFilterUses(draft, name, id), 'place');
            return (
              <Rule
                key={key}
                id={key}
                kind="Filter"
                sentence={
                  <>
                    <strong>
                      {names.table(name)}: {filter.name}
                    </strong>{' '}
                    where {describeCondition(filter.where, naming(name))}{' '}
                    <span className="text-soft">· used in {places}</span>
                  </>
                }
                loses={`The ${places} that use it keep the condition as it is now, each its own.`}
                onRemove={() => remove(name, id)}
              >
                <div className="max-w-80">
                  <Field label="Name">
                    {(ids) => (
                      <input
                        className="field"
                        {...ids}
                        key={filter.name}
                        defaultValue={filter.name}
                        maxLength={120}
                        onBlur={(event) => {
                          const word = event.target.value.trim();
                          if (word && word !== filter.name)
                            void change(name, id, `Call a filter ${word}`, (next) => {
                              next.name = word;
                            });
                        }}
                      />
                    )}
                  </Field>
                </div>
                {table ? (
                  <ConditionEditor
                    table={table}
                    name={`Filter ${filter.name}`}
                    value={filter.where}
                    nameable={false}
                    onChange={(where) =>
                      change(name, id, `Set the filter ${filter.name}`, (next) => {
                        next.where = where;
                      })
                    }
                  />
                ) : (
                  <Notice kind="fault">There is no table {name} any more.</Notice>
                )}
              </Rule>
            );
          })}
        </RuleList>
      )}
      <AddOn words="a filter of" onAdd={add} />
    </>
  );
}
