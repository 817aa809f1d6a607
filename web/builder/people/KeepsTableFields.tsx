import type { KeepsTable } from '../../../core/definition/steward';
import { Select } from '../../ui/Select';
import { useBench } from '../bench/bench-context';
import { useNames } from '../bench/names';
import { StewardRole, useStewardEdit } from './StewardParts';

/** Which table somebody keeps. */
export function KeepsTableFields({ steward }: { steward: KeepsTable }) {
  const { catalogue, draft } = useBench();
  const names = useNames();
  const change = useStewardEdit(steward);
  const seen = catalogue.tables.filter(({ name }) => draft.access[name]?.[steward.role]?.see);
  const tables = seen.some(({ name }) => name === steward.table)
    ? seen
    : [...catalogue.tables.filter(({ name }) => name === steward.table), ...seen];
  return (
    <div className="flex flex-wrap gap-x-6 gap-y-2">
      <StewardRole steward={steward} />
      <label className="flex flex-wrap items-center gap-2">
        keeps
        <Select
          className="w-auto"
          value={steward.table}
          onPick={(table) =>
            void change('Choose the table that is kept', (each) => {
              each.table = table;
            })
          }
        >
          {tables.map(({ name }) => (
            <option key={name} value={name}>
              {names.table(name)}
            </option>
          ))}
        </Select>
      </label>
      <p className="basis-full text-sm text-soft">
        What a file adds and changes is what Access lets {names.role(steward.role)} add and change, with the same row
        filters.
      </p>
    </div>
  );
}
