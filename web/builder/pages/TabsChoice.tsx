import { ArrowDown, ArrowUp } from 'lucide-react';
import { useState } from 'react';
import { describeCondition } from '../../../core/condition/describe';
import { freeId } from '../../../core/definition/free-id';
import type { ForRoles } from '../../../core/definition/section-kinds';
import type { Table } from '../../../core/table/catalogue';
import type { ListTab } from '../../../sections/list/spec';
import { firstCondition } from '../access/choices';
import { useNaming } from '../bench/names';
import { Accordion, AccordionItem } from '../../ui/Accordion';
import { Button } from '../../ui/Button';
import { Field } from '../../ui/Field';
import { AudienceChoice } from './AudienceChoice';
import { RowsChoice } from './RowsChoice';
import { SortChoice } from './SortChoice';

const mostTabs = 12;

/** The views that a list has from the start, as tabs in their order. */
export function TabsChoice({
  table,
  columns,
  of,
  tabs,
  onChange,
}: {
  table: Table;
  columns: string[];
  /** Who gets the list. */
  of: ForRoles;
  tabs: ListTab[];
  onChange: (label: string, tabs: ListTab[]) => Promise<string | null>;
}) {
  const naming = useNaming();
  const [open, setOpen] = useState('');
  const add = () => {
    // What the list held stays the first view, so that the first tab takes nothing away.
    const all: ListTab[] = tabs.length === 0 ? [{ id: 'all', name: 'All', where: 'every row' }] : tabs;
    const tab = { id: freeId('view', all), name: 'New view', where: firstCondition(table) };
    void onChange('Add a view', [...all, tab]).then(() => setOpen(tab.id));
  };
  const move = (from: number, by: number) => {
    const next = [...tabs];
    const [moved] = next.splice(from, 1);
    next.splice(from + by, 0, moved!);
    void onChange(`Move the view ${moved!.name}`, next);
  };
  return (
    <fieldset className="grid gap-2">
      <legend className="text-sm font-semibold">Views to choose from, as tabs</legend>
      <Accordion open={open} onOpen={setOpen}>
        {tabs.map((tab, place) => {
          const change = (label: string, recipe: (tab: ListTab) => void) => {
            const next = structuredClone(tabs);
            recipe(next[place]!);
            return onChange(label, next);
          };
          return (
            <AccordionItem
              key={tab.id}
              id={tab.id}
              label={tab.name}
              sentence={
                <>
                  <strong>{tab.name}</strong>{' '}
                  <span className="text-soft">
                    {tab.where === 'every row'
                      ? 'holds all of the list'
                      : `where ${describeCondition(tab.where, naming(table.name))}`}
                    {tab.audience ? ', for some' : ''}
                  </span>
                </>
              }
            >
              <div className="flex flex-wrap items-end gap-2">
                <Field label="Name of the view">
                  {(ids) => (
                    <input
                      className="field w-60"
                      maxLength={60}
                      {...ids}
                      key={tab.name}
                      defaultValue={tab.name}
                      onBlur={(event) => {
                        const name = event.target.value.trim();
                        if (name && name !== tab.name)
                          void change(`Call the view ${name}`, (next) => {
                            next.name = name;
                          });
                        else event.target.value = tab.name;
                      }}
                    />
                  )}
                </Field>
                <Button
                  small
                  weight="quiet"
                  aria-label={`Move ${tab.name} earlier`}
                  disabled={place === 0}
                  onClick={() => move(place, -1)}
                >
                  <ArrowUp size={15} aria-hidden />
                </Button>
                <Button
                  small
                  weight="quiet"
                  aria-label={`Move ${tab.name} later`}
                  disabled={place === tabs.length - 1}
                  onClick={() => move(place, 1)}
                >
                  <ArrowDown size={15} aria-hidden />
                </Button>
                <Button
                  small
                  aria-label={`Take out ${tab.name}`}
                  onClick={() =>
                    void onChange(
                      `Take out the view ${tab.name}`,
                      tabs.filter(({ id }) => id !== tab.id),
                    )
                  }
                >
                  Take out
                </Button>
              </div>
              <RowsChoice
                label="It holds"
                name={`Filter of ${tab.name}`}
                table={table}
                where={tab.where}
                onChange={(where) =>
                  change(`Narrow the view ${tab.name}`, (next) => {
                    next.where = where;
                  })
                }
              />
              <SortChoice
                table={table}
                sort={tab.sort ?? []}
                columns={columns}
                none="as the list is"
                onChange={(sort) =>
                  void change(`Sort the view ${tab.name}`, (next) => {
                    if (sort.length > 0) next.sort = sort;
                    else delete next.sort;
                  })
                }
              />
              <AudienceChoice
                title="Who gets this view"
                name={`Who gets ${tab.name}`}
                of={of}
                audience={tab.audience}
                onChange={(audience) =>
                  change(`Choose who gets the view ${tab.name}`, (next) => {
                    if (audience) next.audience = audience;
                    else delete next.audience;
                  })
                }
              />
            </AccordionItem>
          );
        })}
      </Accordion>
      {tabs.length < mostTabs && (
        <Button small className="justify-self-start" onClick={add}>
          + view
        </Button>
      )}
    </fieldset>
  );
}
