import { useState } from 'react';
import { describeCondition } from '../../../core/condition/describe';
import { freeId } from '../../../core/definition/free-id';
import type { Table } from '../../../core/table/catalogue';
import type { ListMark } from '../../../sections/list/spec';
import { MarkSign } from '../../../sections/list/MarkSign';
import { firstCondition } from '../access/choices';
import { ConditionEditor } from '../access/ConditionEditor';
import { useNames, useNaming } from '../bench/names';
import { Accordion, AccordionItem } from '../../ui/Accordion';
import { Button } from '../../ui/Button';
import { Field } from '../../ui/Field';
import { Select } from '../../ui/Select';
import { markColours } from '../../ui/mark-colours';

const mostMarks = 8;

/** Signs at the records of which something holds, each with its word and colour. */
export function MarksChoice({
  table,
  columns,
  marks,
  onChange,
}: {
  table: Table;
  columns: string[];
  marks: ListMark[];
  onChange: (label: string, marks: ListMark[]) => Promise<string | null>;
}) {
  const naming = useNaming();
  const names = useNames();
  const [open, setOpen] = useState('');
  const add = () => {
    const mark = { id: freeId('mark', marks), word: 'New mark', colour: 3, where: firstCondition(table) };
    void onChange('Add a mark', [...marks, mark]).then(() => setOpen(mark.id));
  };
  return (
    <fieldset className="grid gap-2">
      <legend className="text-sm font-semibold">Marks</legend>
      <Accordion open={open} onOpen={setOpen}>
        {marks.map((mark, place) => {
          const change = (label: string, recipe: (mark: ListMark) => void) => {
            const next = structuredClone(marks);
            recipe(next[place]!);
            return onChange(label, next);
          };
          return (
            <AccordionItem
              key={mark.id}
              id={mark.id}
              label={mark.word}
              sentence={
                <>
                  <MarkSign word={mark.word} colour={mark.colour} />{' '}
                  <span className="text-soft">where {describeCondition(mark.where, naming(table.name))}</span>
                </>
              }
            >
              <div className="flex flex-wrap items-end gap-2">
                <Field label="Its word">
                  {(ids) => (
                    <input
                      className="field w-48"
                      maxLength={40}
                      {...ids}
                      key={mark.word}
                      defaultValue={mark.word}
                      onBlur={(event) => {
                        const word = event.target.value.trim();
                        if (word && word !== mark.word)
                          void change(`Call the mark ${word}`, (next) => {
                            next.word = word;
                          });
                        else event.target.value = mark.word;
                      }}
                    />
                  )}
                </Field>
                <Field label="Colour">
                  {(ids) => (
                    <Select
                      {...ids}
                      value={String(mark.colour)}
                      onPick={(picked) =>
                        void change(`Colour the mark ${mark.word}`, (next) => {
                          next.colour = Number(picked);
                        })
                      }
                    >
                      {markColours.map((word, colour) => (
                        <option key={word} value={colour}>
                          {word}
                        </option>
                      ))}
                    </Select>
                  )}
                </Field>
                <Field label="Stands at">
                  {(ids) => (
                    <Select
                      {...ids}
                      value={mark.column ?? ''}
                      onPick={(picked) =>
                        void change(`Place the mark ${mark.word}`, (next) => {
                          if (picked === '') delete next.column;
                          else next.column = picked;
                        })
                      }
                    >
                      <option value="">the first column</option>
                      {columns.map((path) => (
                        <option key={path} value={path}>
                          {names.path(table.name, path)}
                        </option>
                      ))}
                    </Select>
                  )}
                </Field>
                <Button
                  small
                  aria-label={`Take out ${mark.word}`}
                  onClick={() =>
                    void onChange(
                      `Take out the mark ${mark.word}`,
                      marks.filter(({ id }) => id !== mark.id),
                    )
                  }
                >
                  Take out
                </Button>
              </div>
              <ConditionEditor
                table={table}
                name={`Condition of ${mark.word}`}
                value={mark.where}
                onChange={(where) =>
                  change(`Decide the mark ${mark.word}`, (next) => {
                    next.where = where;
                  })
                }
              />
            </AccordionItem>
          );
        })}
      </Accordion>
      {marks.length < mostMarks && (
        <Button small className="justify-self-start" onClick={add}>
          + mark
        </Button>
      )}
    </fieldset>
  );
}
