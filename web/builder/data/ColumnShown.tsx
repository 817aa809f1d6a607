import type { PortalDefinition } from '../../../core/definition/definition';
import type { ColumnKind } from '../../../core/table/column-kind';
import type { Column, Table } from '../../../core/table/catalogue';
import { titleColumns } from '../../../core/table/title';
import { Button } from '../../ui/Button';
import { Field } from '../../ui/Field';
import { markColours } from '../../ui/mark-colours';
import { Popover } from '../../ui/Popover';
import { Select } from '../../ui/Select';
import { useBench } from '../bench/bench-context';

type Notes = NonNullable<NonNullable<PortalDefinition['tables'][string]['columns']>[string]>;

const textKinds: [ColumnKind, string][] = [
  ['e-mail', 'an e-mail address'],
  ['phone', 'a phone number'],
  ['web address', 'a link'],
  ['picture', 'a picture, by its address'],
];

/** How a column's values look to people: what a text is, and what values are called that stand for others. */
export function ColumnShown({ table, column, notes }: { table: Table; column: Column; notes: Notes }) {
  const { edit } = useBench();
  const isText = column.type === 'text' && column.kind !== 'file';
  const isCode = ['whole number', 'text', 'one choice', 'yes/no'].includes(column.type) && !notes.kind;
  if (!isText && !isCode) return null;
  const change = (recipe: (notes: Notes) => void) =>
    edit(`Say how ${table.name}.${column.name} is shown`, (next) => {
      const columns = ((next.tables[table.name] ??= {}).columns ??= {});
      const note = { ...columns[column.name] };
      recipe(note);
      columns[column.name] = note;
    });
  const said = notes.labels
    ? `${Object.keys(notes.labels).length} values have labels`
    : (textKinds.find(([kind]) => kind === notes.kind)?.[1] ?? 'as it is');
  return (
    <Popover
      label={`How ${column.name} is shown`}
      className="grid w-96 gap-3"
      trigger={
        <button
          type="button"
          className="text-left text-sm text-water underline"
          aria-label={`How ${column.name} is shown`}
        >
          shown {said}
        </button>
      }
    >
      {isText && (
        <Field label="It is" hint="What is written must be one, and is shown as one.">
          {(ids) => (
            <Select
              {...ids}
              value={notes.kind ?? ''}
              onPick={(picked) =>
                void change((note) => {
                  if (picked) {
                    note.kind = picked as ColumnKind;
                    delete note.labels;
                  } else delete note.kind;
                })
              }
            >
              <option value="">text</option>
              {textKinds.map(([kind, words]) => (
                <option key={kind} value={kind}>
                  {words}
                </option>
              ))}
            </Select>
          )}
        </Field>
      )}
      {isCode && <Labels key={JSON.stringify(notes.labels)} column={column} notes={notes} onChange={change} />}
    </Popover>
  );
}

/** What stored values are called, each with its colour. */
function Labels({
  column,
  notes,
  onChange,
}: {
  column: Column;
  notes: Notes;
  onChange: (recipe: (notes: Notes) => void) => Promise<string | null>;
}) {
  const labels = notes.labels ?? {};
  const known = column.choices ?? (column.type === 'yes/no' ? ['true', 'false'] : null);
  const values = known ?? Object.keys(labels);
  const set = (value: string, label: string) =>
    void onChange((note) => {
      const { [value]: _was, ...rest } = note.labels ?? {};
      note.labels = label === '' ? rest : { ...rest, [value]: label };
      if (Object.keys(note.labels).length === 0) delete note.labels;
    });
  const paint = (value: string, place: string) =>
    void onChange((note) => {
      const { [value]: _was, ...rest } = note.colours ?? {};
      note.colours = place === '' ? rest : { ...rest, [value]: Number(place) };
      if (Object.keys(note.colours).length === 0) delete note.colours;
    });
  return (
    <div className="grid gap-2">
      <p className="text-sm text-soft">
        What stored values are called, as in 0 = new. People read and choose the labels.
      </p>
      {values.map((value) => (
        <div key={value} className="flex items-center gap-2">
          <code className="w-20 truncate font-code text-sm">{value}</code>
          <input
            className="field flex-1"
            aria-label={`Label of ${value}`}
            defaultValue={labels[value] ?? ''}
            placeholder={value}
            maxLength={80}
            onBlur={(event) => {
              const label = event.target.value.trim();
              if (label !== (labels[value] ?? '')) set(value, label);
            }}
          />
          <Select
            className="w-28"
            aria-label={`Colour of ${value}`}
            value={notes.colours?.[value] ?? ''}
            onPick={(place) => paint(value, place)}
          >
            <option value="">no colour</option>
            {markColours.map((word, place) => (
              <option key={word} value={place}>
                {word}
              </option>
            ))}
          </Select>
        </div>
      ))}
      {!known && (
        <form
          className="flex items-end gap-2"
          onSubmit={(event) => {
            event.preventDefault();
            const said = new FormData(event.currentTarget);
            const [value, label] = ['value', 'label'].map((name) => String(said.get(name)).trim());
            if (value && label) set(value, label);
          }}
        >
          <Field label="Stored">{(ids) => <input className="field" name="value" {...ids} maxLength={200} />}</Field>
          <Field label="Called">{(ids) => <input className="field" name="label" {...ids} maxLength={80} />}</Field>
          <Button type="submit">Add</Button>
        </form>
      )}
    </div>
  );
}

/** Which columns stand for a record where it is chosen or named. */
export function TitleChoice({ table }: { table: Table }) {
  const { draft, edit } = useBench();
  const choices = titleColumns(table);
  const { titleColumn: said, titleFurther: further = [] } = draft.tables[table.name] ?? {};
  if (choices.length === 0 || table.key.length === 0) return null;
  const change = (recipe: (notes: PortalDefinition['tables'][string]) => void) =>
    void edit(`Say what a record of ${table.name} is called`, (next) => recipe((next.tables[table.name] ??= {})));
  const setFurther = (names: string[]) =>
    change((notes) => {
      if (names.length > 0) notes.titleFurther = names;
      else delete notes.titleFurther;
    });
  const free = table.columns
    .map((column) => column.name)
    .filter((name) => name !== (said ?? choices[0]) && !further.includes(name));
  return (
    <div className="flex flex-wrap items-center gap-2 px-4 pt-3 text-sm">
      <label className="flex items-center gap-2">
        A record is called by its
        <Select
          className="w-auto"
          value={said ?? ''}
          onPick={(picked) =>
            change((notes) => {
              if (picked) notes.titleColumn = picked;
              else delete notes.titleColumn;
            })
          }
        >
          <option value="">{choices[0]} (guessed)</option>
          {choices.map((name) => (
            <option key={name}>{name}</option>
          ))}
        </Select>
      </label>
      {further.map((name) => (
        <button
          key={name}
          type="button"
          className="mark"
          aria-label={`Take ${name} out of the title`}
          onClick={() => setFurther(further.filter((each) => each !== name))}
        >
          {name} ×
        </button>
      ))}
      {further.length < 3 && (
        <Select
          className="w-auto"
          aria-label="Say this after it"
          value=""
          onPick={(picked) => setFurther([...further, picked])}
        >
          <option value="">and …</option>
          {free.map((name) => (
            <option key={name}>{name}</option>
          ))}
        </Select>
      )}
    </div>
  );
}
