import { findTable, type Table } from '../../../core/table/catalogue';
import { sectionEdits } from '../../../sections/edit';
import { useBench } from '../bench/bench-context';
import { useNames } from '../bench/names';
import { Button } from '../../ui/Button';
import { Field } from '../../ui/Field';
import { Select } from '../../ui/Select';

/** Adds a section of a kind, which for some is about a table. */
export function AddSection({ onAdd }: { onAdd: (kind: string, table: Table | null, thing: string | null) => void }) {
  const { catalogue, draft } = useBench();
  const names = useNames();
  const openable = catalogue.tables.filter((table) => table.key.length > 0);
  return (
    <div className="flex flex-wrap items-end gap-4">
      {Object.entries(sectionEdits).map(([kind, { word, ofTable, things }]) =>
        things ? (
          <AddOfThing key={kind} word={word} things={things(draft)} onAdd={(thing) => onAdd(kind, null, thing)} />
        ) : ofTable ? (
          <Field key={kind} label={`${word} the records of`}>
            {(ids) => (
              <Select
                className="max-w-80"
                {...ids}
                value=""
                onPick={(picked) => {
                  const table = findTable(catalogue, picked);
                  if (table) onAdd(kind, table, null);
                }}
              >
                <option value="">choose a table</option>
                {openable.map((table) => (
                  <option key={table.name} value={table.name}>
                    {names.table(table.name)}
                  </option>
                ))}
              </Select>
            )}
          </Field>
        ) : (
          <Button key={kind} onClick={() => onAdd(kind, null, null)}>
            + {word.toLowerCase()}
          </Button>
        ),
      )}
    </div>
  );
}

/** Adds a section of something that the portal has, like a steward; nothing where it has none. */
function AddOfThing({
  word,
  things,
  onAdd,
}: {
  word: string;
  things: { id: string; label: string }[];
  onAdd: (thing: string) => void;
}) {
  if (things.length === 0) return null;
  return (
    <Field label={word}>
      {(ids) => (
        <Select className="max-w-80" {...ids} value="" onPick={(picked) => picked && onAdd(picked)}>
          <option value="">choose a steward</option>
          {things.map(({ id, label }) => (
            <option key={id} value={id}>
              {label}
            </option>
          ))}
        </Select>
      )}
    </Field>
  );
}
