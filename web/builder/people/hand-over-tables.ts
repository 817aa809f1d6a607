import type { Catalogue } from '../../../core/table/catalogue';

/** Where records lead to a row of a roster, and so can be handed over: by the table and its column. */
export function handedOver(catalogue: Catalogue, roster: string): { table: string; column: string }[] {
  const key = catalogue.tables.find(({ name }) => name === roster)?.key;
  return catalogue.tables.flatMap((table) =>
    table.key.length === 0
      ? []
      : table.relations
          .filter((relation) => relation.table === roster && key?.length === 1 && relation.targetColumn === key[0])
          .map(({ column }) => ({ table: table.name, column })),
  );
}
