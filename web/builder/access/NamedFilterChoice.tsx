import { Link } from 'react-router';
import type { Condition } from '../../../core/condition/tree';
import type { Table } from '../../../core/table/catalogue';
import { Button } from '../../ui/Button';
import { Select } from '../../ui/Select';
import { useBench } from '../bench/bench-context';

/** Which of the table's named filters a condition is, with a way to make it one of them or its own again. */
export function NamedFilterChoice({
  table,
  condition,
  onChange,
}: {
  table: Table;
  condition: Condition;
  onChange: (condition: Condition) => void;
}) {
  const { draft, to } = useBench();
  const filters = Object.entries(draft.tables[table.name]?.filters ?? {});
  const now = filters.find(([id]) => id === condition.named);
  if (filters.length === 0) return null;
  if (!now)
    return (
      <Select
        className="w-auto"
        aria-label="A filter that is kept"
        value=""
        onPick={(id) => {
          const filter = filters.find(([each]) => each === id)?.[1];
          if (filter) onChange({ ...structuredClone(filter.where), named: id });
        }}
      >
        <option value="">a kept filter …</option>
        {filters.map(([id, { name }]) => (
          <option key={id} value={id}>
            {name}
          </option>
        ))}
      </Select>
    );
  const { named: _named, ...own } = condition;
  return (
    <div className="flex flex-wrap items-center gap-2 text-sm">
      <span className="rounded-stone border border-water bg-water-wash px-2 py-0.5 font-semibold">{now[1].name}</span>
      <Link to={to('access', '~filters', { rule: `${table.name}/${now[0]}` })}>change it wherever it is used</Link>
      <Button small weight="quiet" onClick={() => onChange(own as Condition)}>
        Make it its own here
      </Button>
    </div>
  );
}
