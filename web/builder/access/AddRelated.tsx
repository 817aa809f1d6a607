import type { Condition } from '../../../core/condition/tree';
import { findTable, type Catalogue, type Table } from '../../../core/table/catalogue';
import { Button } from '../../ui/Button';
import { useBench } from '../bench/bench-context';

/** Ways to related records from a table: its own to-many relations, and those of the records that it points to. */
export function manyChoices(catalogue: Catalogue, table: Table): string[][] {
  const further = table.relations.flatMap((relation) =>
    (findTable(catalogue, relation.table)?.many ?? []).map((many) => [relation.name, many.name]),
  );
  return [...(table.many ?? []).map((many) => [many.name]), ...further];
}

export function AddRelated({ table, onAdd }: { table: Table; onAdd: (exists: Condition) => void }) {
  const { catalogue } = useBench();
  const [first] = manyChoices(catalogue, table);
  return first ? (
    <Button small weight="quiet" onClick={() => onAdd({ kind: 'exists', relation: first, where: null })}>
      + related records
    </Button>
  ) : null;
}
