import { useQueryClient } from '@tanstack/react-query';
import { KeyRound } from 'lucide-react';
import { dataClasses, type DataClass } from '../../../core/definition/definition';
import type { Relation, Table } from '../../../core/table/catalogue';
import { useSuggestions } from '../../client/builder';
import { Button } from '../../ui/Button';
import { Notice } from '../../ui/Notice';
import { useBench } from '../bench/bench-context';
import { ColumnShown, TitleChoice } from './ColumnShown';
import { ShapeColumn } from './ShapeColumn';
import { RelateByHand } from './RelateByHand';
import { QueryColumn } from './QueryColumn';
import { Select } from '../../ui/Select';
import { DataTable } from '../../ui/DataTable';

export function Columns({ table }: { table: Table }) {
  const { slug, draft, edit } = useBench();
  const own = draft.source.connection === undefined && table.query === undefined && table.stored === undefined;
  const suggestions = useSuggestions(slug, table.name);
  const client = useQueryClient();
  const notes = (column: string) => draft.tables[table.name]?.columns?.[column] ?? {};
  const change = (column: string, part: { label?: string; dataClass?: DataClass | null }) =>
    void edit(`Describe ${table.name}.${column}`, (next) => {
      const columns = ((next.tables[table.name] ??= {}).columns ??= {});
      const note = { ...columns[column] };
      if ('label' in part) {
        if (part.label) note.label = part.label;
        else delete note.label;
      }
      if ('dataClass' in part) {
        if (part.dataClass) note.dataClass = part.dataClass;
        else delete note.dataClass;
      }
      columns[column] = note;
    });
  const open = (suggestions.data?.suggestions ?? []).filter((each) => !notes(each.column).dataClass);
  const declared = (column: string) => draft.tables[table.name]?.relations?.find((each) => each.column === column);
  const known = () => client.invalidateQueries({ queryKey: ['builder', slug, 'portal'] });
  const declare = async ({ name, column, table: to, targetColumn }: Relation) => {
    await edit(`Relate ${table.name}.${column} to ${to}`, (next) => {
      ((next.tables[table.name] ??= {}).relations ??= []).push({ name, column, table: to, targetColumn });
    });
    await known();
  };
  const undeclare = async (column: string) => {
    await edit(`Take the relation off ${table.name}.${column}`, (next) => {
      const notes = next.tables[table.name]!;
      notes.relations = notes.relations!.filter((each) => each.column !== column);
      if (notes.relations.length === 0) delete notes.relations;
    });
    await known();
  };
  const acceptAll = () =>
    void edit(
      `Give ${open.length === 1 ? 'a column' : `${open.length} columns`} of ${table.name} a data class`,
      (next) => {
        const columns = ((next.tables[table.name] ??= {}).columns ??= {});
        for (const each of open) columns[each.column] = { ...columns[each.column], dataClass: each.dataClass };
      },
    );
  return (
    <>
      {open.length > 0 && (
        <div className="p-4 pb-2">
          <Notice
            kind="warn"
            action={
              <Button small onClick={acceptAll}>
                Give {open.length === 1 ? 'it' : `all ${open.length}`} the data class
              </Button>
            }
          >
            {open.length === 1 ? 'One column looks' : `${open.length} columns look`} like personal data without a data
            class: {open.map((each) => each.column).join(', ')}.
          </Notice>
        </div>
      )}
      <TitleChoice table={table} />
      <DataTable
        label={`Columns of ${table.name}`}
        head={['Column', 'Type', 'Relation', 'Label for people', 'Data class']}
      >
        {table.columns.map((column) => {
          const relation = table.relations.find((each) => each.column === column.name);
          return (
            <tr key={column.name}>
              <td className="font-semibold whitespace-nowrap">
                {column.name}{' '}
                {table.key.includes(column.name) && (
                  <KeyRound size={13} aria-label="primary key" className="inline text-ochre" />
                )}
                {column.comment && (
                  <span className="block max-w-48 text-sm font-normal whitespace-normal text-soft">
                    {column.comment}
                  </span>
                )}
                <QueryColumn table={table} column={column} />
                {own && (
                  <span className="block text-sm font-normal">
                    <ShapeColumn key={column.nativeType} table={table} column={column} />
                  </span>
                )}
              </td>
              <td>
                <span>
                  {column.kind ?? (column.type === 'other' ? 'other: shown, not filtered or changed' : column.type)}
                  {column.currency ? `, ${column.currency}` : ''}
                  {column.nullable ? '' : ', required'}
                </span>
                {column.choices ? (
                  <span className="block text-sm text-soft">{column.choices.join(', ')}</span>
                ) : (
                  <span className="block text-sm text-soft font-code">{column.nativeType}</span>
                )}
              </td>
              <td className="text-sm">
                {(relation ?? declared(column.name)) ? (
                  <>
                    {(relation ?? declared(column.name))!.name} → {(relation ?? declared(column.name))!.table}
                  </>
                ) : (
                  <span className="text-soft">–</span>
                )}
                {declared(column.name) && (
                  <button
                    type="button"
                    className="block text-left text-water underline"
                    aria-label={`Take the relation off ${column.name}`}
                    onClick={() => void undeclare(column.name)}
                  >
                    take it off
                  </button>
                )}
                {!relation &&
                  !declared(column.name) &&
                  suggestions.data?.relations
                    .filter((each) => each.column === column.name)
                    .map((each) => (
                      <button
                        key={each.name}
                        type="button"
                        className="block text-left text-water underline"
                        onClick={() => void declare(each)}
                      >
                        relate to {each.table}: {each.found} of {each.of} values are found in {each.table}.
                        {each.targetColumn}
                      </button>
                    ))}
                {!relation && !declared(column.name) && (
                  <RelateByHand table={table} column={column} onRelate={(each) => void declare(each)} />
                )}
              </td>
              <td>
                <input
                  className="field"
                  aria-label={`Label of ${column.name}`}
                  key={notes(column.name).label ?? ''}
                  defaultValue={notes(column.name).label ?? ''}
                  placeholder="made of the name"
                  maxLength={120}
                  onBlur={(event) => {
                    if (event.target.value.trim() !== (notes(column.name).label ?? ''))
                      change(column.name, { label: event.target.value.trim() });
                  }}
                />
                <ColumnShown table={table} column={column} notes={notes(column.name)} />
              </td>
              <td>
                <Select
                  className="min-w-28"
                  aria-label={`Data class of ${column.name}`}
                  value={notes(column.name).dataClass ?? ''}
                  onPick={(picked) => change(column.name, { dataClass: (picked || null) as DataClass | null })}
                >
                  <option value="">none</option>
                  {dataClasses.map((each) => (
                    <option key={each}>{each}</option>
                  ))}
                </Select>
                {open
                  .filter((each) => each.column === column.name)
                  .map((each) => (
                    <button
                      key={each.what}
                      type="button"
                      className="mt-1 block text-left text-sm text-water underline"
                      onClick={() => change(column.name, { dataClass: each.dataClass })}
                    >
                      {each.dataClass}: {each.found} of {each.of} are {each.what}
                    </button>
                  ))}
              </td>
            </tr>
          );
        })}
      </DataTable>
    </>
  );
}
