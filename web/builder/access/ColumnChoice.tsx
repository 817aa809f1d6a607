import { dataClasses } from '../../../core/definition/definition';
import { findTable } from '../../../core/table/catalogue';
import { useBench } from '../bench/bench-context';
import { useNames } from '../bench/names';
import { Select } from '../../ui/Select';

export interface ChosenColumn {
  table: string;
  column: string;
  class: string;
}

/** A data class, or a column of a table. */
export function ColumnChoice({
  chosen,
  onChoose,
}: {
  chosen: ChosenColumn;
  onChoose: (next: Partial<ChosenColumn>) => void;
}) {
  const { catalogue } = useBench();
  const names = useNames();
  const columns = findTable(catalogue, chosen.table)?.columns ?? [];
  return (
    <>
      <Select
        aria-label="Data class"
        className="w-auto"
        value={chosen.class}
        onPick={(picked) => onChoose(picked ? { class: picked } : {})}
      >
        <option value="">a data class …</option>
        {dataClasses.map((each) => (
          <option key={each}>{each}</option>
        ))}
      </Select>
      <span className="text-soft">or</span>
      <Select
        aria-label="Table"
        className="w-auto"
        value={chosen.table}
        onPick={(picked) =>
          onChoose(picked ? { table: picked, column: findTable(catalogue, picked)?.columns[0]?.name ?? '' } : {})
        }
      >
        <option value="">a column of …</option>
        {catalogue.tables.map((each) => (
          <option key={each.name} value={each.name}>
            {names.table(each.name)}
          </option>
        ))}
      </Select>
      {chosen.table && (
        <Select
          aria-label="Column"
          className="w-auto"
          value={chosen.column}
          onPick={(picked) => onChoose({ table: chosen.table, column: picked })}
        >
          {columns.map((each) => (
            <option key={each.name} value={each.name}>
              {names.column(chosen.table, each.name)}
            </option>
          ))}
        </Select>
      )}
    </>
  );
}
