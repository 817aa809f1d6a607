import { readRecords, type TableInfo, type ViewRecord } from './grid';

/** Records with all the columns that the person sees, as they are now; one that can't be read so has no values. */
export async function wholeRecords(base: string, info: TableInfo, ids: readonly string[]): Promise<ViewRecord[]> {
  const found: ViewRecord[] = [];
  const [key] = info.key;
  for (let from = 0; from < ids.length; from += 200) {
    const part = ids.slice(from, from + 200);
    const known =
      info.key.length === 1 && info.columns.some(({ path }) => path === key)
        ? (
            await readRecords(base, info.table, {
              columns: info.columns.map((column) => column.path).join(','),
              sort: '',
              search: '',
              filter: `${key} IN (${part.map((id) => literal(info, key!, decodeURIComponent(id))).join(', ')})`,
              size: 200,
            })
          ).records
        : [];
    found.push(...part.map((id) => known.find((record) => record.id === id) ?? { id, values: {}, masked: [] }));
  }
  return found;
}

/** A key's value as the filter's text has it. */
function literal(info: TableInfo, key: string, value: string): string {
  const type = info.columns.find((column) => column.path === key)?.type;
  return type === 'whole number' || type === 'decimal' ? value : `'${value.replaceAll("'", "''")}'`;
}
