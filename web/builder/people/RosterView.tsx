import { counted } from '../../../core/text/counted';
import { useSearchParams } from 'react-router';
import { findTable } from '../../../core/table/catalogue';
import type { Roster } from '../../../core/definition/definition';
import { useFindings } from '../../client/builder';
import { Button } from '../../ui/Button';
import { Field } from '../../ui/Field';
import { useBench } from '../bench/bench-context';
import { StageHead } from '../bench/StageFrame';
import { RoleRules, type ChangeRoster } from './RoleRules';
import { Members } from './Members';

export function RosterView({ roster }: { roster: Roster }) {
  const { draft, catalogue, edit, slug, state } = useBench();
  const facts = useFindings(slug, state.revision).data?.rosters.find((each) => each.table === roster.table);
  const table = findTable(catalogue, roster.table);
  const [params] = useSearchParams();
  const change: ChangeRoster = (recipe) =>
    edit(`Change the roster ${roster.table}`, (next) => {
      const found = next.rosters.find((each) => each.table === roster.table);
      if (found) recipe(found);
    });
  const roles = draft.roles.filter((role) => (role.for ?? 'members') === 'members');
  const columns = table?.columns.filter((column) => column.type === 'text' || column.type === 'long text') ?? [];
  const choose = (label: string, part: 'name' | 'email') => (
    <Field
      label={label}
      hint={
        part === 'email' && facts
          ? `${facts.withoutEmail.toLocaleString()} of ${counted(facts.rows, 'row')} ` +
            `${facts.withoutEmail === 1 ? 'has' : 'have'} none, ${facts.sharedEmail.toLocaleString()} share one`
          : undefined
      }
    >
      {(ids) => (
        <select
          className={`field ${params.get('column') === roster[part] ? 'ring-2 ring-ochre-fill' : ''}`}
          {...ids}
          value={roster[part]}
          onChange={(event) => {
            const column = event.target.value;
            void change((next) => {
              next[part] = column;
            });
          }}
        >
          {!columns.some((column) => column.name === roster[part]) && <option>{roster[part]}</option>}
          {columns.map((column) => (
            <option key={column.name}>{column.name}</option>
          ))}
        </select>
      )}
    </Field>
  );
  return (
    <>
      <StageHead title={`Members from ${roster.table}`}>
        <Button
          small
          onClick={() =>
            void edit(`Remove the roster ${roster.table}`, (next) => {
              next.rosters = next.rosters.filter((each) => each.table !== roster.table);
            })
          }
        >
          Remove
        </Button>
      </StageHead>
      <div className="grid max-w-200 gap-4 p-4 md:grid-cols-2">
        {choose('Name is in', 'name')}
        {choose('E-mail is in', 'email')}
        <Field label="Organisation is in" hint="Records of it are a member's own">
          {(ids) => (
            <select
              className="field"
              {...ids}
              value={roster.organisation ?? ''}
              onChange={(event) => {
                const column = event.target.value;
                void change((next) => {
                  if (column === '') delete next.organisation;
                  else next.organisation = column;
                });
              }}
            >
              <option value="">none</option>
              {table?.columns
                .filter((column) => column.type !== 'other')
                .map((column) => (
                  <option key={column.name}>{column.name}</option>
                ))}
            </select>
          )}
        </Field>
        <Field label="Everyone on it is">
          {(ids) => (
            <select
              className="field"
              {...ids}
              value={roster.role ?? ''}
              onChange={(event) => {
                const role = event.target.value;
                void change((next) => {
                  if (role === '') {
                    delete next.role;
                    next.roles ??= [];
                  } else next.role = role;
                });
              }}
            >
              <option value="">what the rules below say</option>
              {roles.map((role) => (
                <option key={role.id} value={role.id}>
                  {role.name}
                </option>
              ))}
            </select>
          )}
        </Field>
      </div>
      {table && <RoleRules roster={roster} table={table} roles={roles} onChange={change} />}
      <Members roster={roster.table} />
    </>
  );
}
