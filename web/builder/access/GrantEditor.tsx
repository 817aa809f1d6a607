import { describeCondition } from '../../../core/condition/describe';
import type { Grant, RowFilter } from '../../../core/definition/definition';
import type { Table } from '../../../core/table/catalogue';
import { Button } from '../../ui/Button';
import { useBench } from '../bench-context';
import { firstCondition, ownRows } from './choices';
import { ConditionEditor } from './ConditionEditor';
import { ColumnLevel } from './ColumnLevel';

/** What one role may do on the table: which rows it sees and edits, and the level of the chosen column. */
export function GrantEditor({ table, role, column }: { table: Table; role: { id: string; name: string }; column: string | null }) {
  const { draft, catalogue, edit } = useBench();
  const grant: Grant = draft.access[table.name]?.[role.id] ?? {};
  const suggestions = ownRows(draft, catalogue, table, role.id);
  const change = (label: string, recipe: (grant: Grant) => Grant | null) => edit(label, (next) => {
    const ofTable = (next.access[table.name] ??= {});
    const changed = recipe(structuredClone(ofTable[role.id] ?? {}));
    if (changed && Object.values(changed).some((part) => part !== undefined)) ofTable[role.id] = changed;
    else delete ofTable[role.id];
    if (Object.keys(ofTable).length === 0) delete next.access[table.name];
  });
  const setSee = (where: RowFilter) => change(`Set which rows of ${table.name} ${role.name} sees`, (old) => ({ ...old, see: { where, columns: old.see?.columns ?? [] } }));
  const setEdit = (where: RowFilter | 'as seen' | null) => change(`Set which rows of ${table.name} ${role.name} edits`, (old) => {
    if (where === null) {
      const { edit: _, ...others } = old;
      return others;
    }
    return { ...old, edit: { ...old.edit, where, columns: old.edit?.columns ?? [] } };
  });
  const begin = () => suggestions[0] ?? firstCondition(table);
  const see = grant.see?.where ?? null;
  const edited = grant.edit?.where ?? null;

  return (
    <section aria-label={`${role.name} on ${table.name}`} className="grid gap-4 border-t-2 border-line p-4">
      {column && grant.see && <ColumnLevel table={table} role={role} column={column} />}
      <div className="grid gap-2">
        <div className="flex flex-wrap items-center gap-2">
          <h2 className="mr-auto">{role.name} sees {table.name}</h2>
          <RowChoice name={`Rows that ${role.name} sees`} value={see === null ? 'none' : see === 'every row' ? 'all' : 'some'} onChange={(choice) => void (choice === 'none' ? change(`Take ${table.name} from ${role.name}`, () => null) : setSee(choice === 'all' ? 'every row' : begin()))} />
        </div>
        {see === null && suggestions.length > 0 && (
          <div className="flex flex-wrap gap-2">{suggestions.map((suggestion, i) => <Button key={i} small onClick={() => void setSee(suggestion)}>Only where {describeCondition(suggestion)}</Button>)}</div>
        )}
        {see === 'every row' && <p className="text-sm text-iron font-medium">Without a row filter each {role.name} reads all of {table.name}.</p>}
        {see !== null && see !== 'every row' && <ConditionEditor key={`see/${table.name}/${role.id}`} table={table} name="See filter" value={see} onChange={setSee} />}
      </div>
      {grant.see && (
        <div className="grid gap-2">
          <div className="flex flex-wrap items-center gap-2">
            <h2 className="mr-auto">and edits the editable columns</h2>
            <RowChoice edit name={`Rows that ${role.name} edits`} value={edited === null ? 'none' : edited === 'as seen' ? 'seen' : edited === 'every row' ? 'all' : 'some'}
              onChange={(choice) => void setEdit(choice === 'none' ? null : choice === 'seen' ? 'as seen' : choice === 'all' ? 'every row' : see !== null && see !== 'every row' ? see : begin())} />
          </div>
          {edited !== null && edited !== 'as seen' && edited !== 'every row' && <ConditionEditor key={`edit/${table.name}/${role.id}`} table={table} name="Edit filter" value={edited} onChange={setEdit} />}
        </div>
      )}
    </section>
  );
}

type RowWord = 'none' | 'seen' | 'some' | 'all';

function RowChoice({ name, value, edit = false, onChange }: { name: string; value: RowWord; edit?: boolean; onChange: (value: RowWord) => void }) {
  return (
    <select aria-label={name} className="field w-auto" value={value} onChange={(event) => onChange(event.target.value as RowWord)}>
      <option value="none">{edit ? 'never' : 'nothing'}</option>
      {edit && <option value="seen">in every row they see</option>}
      <option value="some">rows where …</option>
      <option value="all">{edit ? 'in every row' : 'every row'}</option>
    </select>
  );
}
