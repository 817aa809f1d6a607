import { useNavigate, useSearchParams } from 'react-router';
import { describeCondition } from '../../../core/condition/describe';
import { columnLabel, type PortalDefinition } from '../../../core/definition/definition';
import { findTable, plainLabel, type Table } from '../../../core/table/catalogue';
import { Notice } from '../../ui/Notice';
import { Stones } from '../../ui/Stones';
import { useTableCounts } from '../../client/builder';
import { useBench } from '../bench-context';
import { StageFrame, StageHead } from '../StageFrame';
import { GrantEditor } from './GrantEditor';
import { levelOf } from './set-level';

/** Columns against roles as a grid of stones; the chosen cell opens below it. */
export default function AccessStage() {
  const { slug, catalogue, object, to, draft } = useBench();
  const counts = useTableCounts(slug);
  const name = object ?? catalogue.tables[0]?.name;
  const table = name === undefined ? undefined : findTable(catalogue, name);
  const item = (each: Table) => ({ key: each.name, label: each.name, aside: counts.data?.tables.find((count) => count.name === each.name)?.rows.toLocaleString(), to: to('access', each.name), current: each.name === name });
  const granted = catalogue.tables.filter((each) => draft.access[each.name]);
  const others = catalogue.tables.filter((each) => !draft.access[each.name]);
  const groups = [{ title: 'Open to someone', items: granted.map(item) }, { title: 'Open to nobody', items: others.map(item) }].filter((group) => group.items.length > 0);
  return (
    <StageFrame title="Tables" groups={groups}>
      {!table && <div className="p-4"><Notice kind="fault">There is no table {name}. Choose one on the left.</Notice></div>}
      {table && draft.roles.length === 0 && <div className="p-4"><Notice kind="say">There are no roles yet. Make one under People, then say here what it sees.</Notice></div>}
      {table && draft.roles.length > 0 && <Grid key={table.name} table={table} />}
    </StageFrame>
  );
}

function Grid({ table }: { table: Table }) {
  const { draft, to } = useBench();
  const navigate = useNavigate();
  const [params] = useSearchParams();
  const role = draft.roles.find((each) => each.id === params.get('role')) ?? null;
  const column = params.get('column');
  const choose = (roleId: string, columnName: string | null) => void navigate(to('access', table.name, { role: roleId, ...(columnName ? { column: columnName } : {}) }), { replace: true });
  return (
    <>
      <StageHead title={table.name}><span className="text-sm text-soft">Choose a stone to set it</span></StageHead>
      <div className="shrink-0 overflow-x-auto" tabIndex={-1}>
        <table className="w-full text-left">
          <thead>
            <tr className="border-b border-line align-bottom">
              <th scope="col" className="px-4 py-2">Column</th>
              {draft.roles.map((each) => (
                <th key={each.id} scope="col" className="min-w-40 px-2 py-1 font-normal">
                  <button type="button" aria-pressed={role?.id === each.id && !column} className={`w-full rounded-stone px-1 py-1 text-left hover:bg-sunk ${role?.id === each.id && !column ? 'outline-2 outline-water' : ''}`} onClick={() => choose(each.id, null)}>
                    <span className="font-head font-bold">{each.name}</span>
                    <span className="block text-sm text-soft">{filterSentence(draft, table, each.id)}</span>
                  </button>
                </th>
              ))}
            </tr>
            <tr className="border-b border-line bg-sunk">
              <th scope="row" className="px-4 py-1">Operations</th>
              {draft.roles.map((each) => <td key={each.id} className="px-3 py-1 font-semibold">{operations(draft, table, each.id)}</td>)}
            </tr>
          </thead>
          <tbody>
            {table.columns.map((each) => (
              <tr key={each.name} className="border-b border-line">
                <th scope="row" className="px-4 py-0 font-normal whitespace-nowrap" title={each.name}>{columnLabel(draft, table.name, each.name, plainLabel)}</th>
                {draft.roles.map((roleOf) => {
                  const level = levelOf(draft, table, roleOf.id, each.name);
                  const chosen = role?.id === roleOf.id && column === each.name;
                  return (
                    <td key={roleOf.id} className="px-2 py-0.5">
                      <button type="button" aria-pressed={chosen} aria-label={`${each.name} for ${roleOf.name}: ${level}`} className={`flex w-full items-center gap-2 rounded-stone px-1 py-0.5 text-left text-sm hover:bg-sunk ${chosen ? 'bg-water-wash outline-2 outline-water' : ''}`} onClick={() => choose(roleOf.id, each.name)}>
                        <Stones level={level} /><span className={level === 'hidden' ? 'text-soft' : ''}>{level}</span>
                      </button>
                    </td>
                  );
                })}
              </tr>
            ))}
          </tbody>
        </table>
      </div>
      {role ? <GrantEditor key={`${table.name}/${role.id}`} table={table} role={role} column={column} /> : <p className="p-4 text-soft">Choose a role above to set which rows it sees and edits, or a stone to set one column.</p>}
    </>
  );
}

function operations(draft: PortalDefinition, table: Table, role: string): string {
  const grant = draft.access[table.name]?.[role];
  return [grant?.see && 'see', grant?.edit && grant.edit.columns.length > 0 && 'edit'].filter(Boolean).join(' · ') || 'none';
}

function filterSentence(draft: PortalDefinition, table: Table, role: string): string {
  const where = draft.access[table.name]?.[role]?.see?.where;
  if (where === undefined) return 'nothing';
  return where === 'every row' ? 'every row' : describeCondition(where);
}
