import { useBench } from '../bench/bench-context';
import { useNames } from '../bench/names';
import { Select } from '../../ui/Select';

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
  const names = useNames();
  return (
    <Select
      className="max-w-80"
      aria-label={`Add ${words}`}
      value=""
      onPick={(picked) => {
        if (picked) onAdd(picked);
      }}
    >
      <option value="">add {words} …</option>
      {catalogue.tables
        .filter((table) => only?.(table.name) ?? true)
        .map((table) => (
          <option key={table.name} value={table.name}>
            {names.table(table.name)}
          </option>
        ))}
    </Select>
  );
}
