import { counted } from '../../../core/text/counted';
import { useSearchParams } from 'react-router';
import { findTable } from '../../../core/table/catalogue';
import type { Roster } from '../../../core/definition/definition';
import { useFindings, useMembers } from '../../client/builder';
import { Button } from '../../ui/Button';
import { Field } from '../../ui/Field';
import { useBench } from '../bench/bench-context';
import { StageHead } from '../bench/StageFrame';
import { RoleRules, type ChangeRoster } from './RoleRules';
import { MemberList } from './Members';
import { WhoCounts } from './WhoCounts';
import { Question } from '../../ui/Question';
import { Select } from '../../ui/Select';
import { useNames } from '../bench/names';

export function RosterView({ roster }: { roster: Roster }) {
  const { draft, catalogue, edit, slug, state } = useBench();
  const names = useNames();
  const members = useMembers(slug, { roster: roster.table }, 0, 1);
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
        <Select
          className={`field ${params.get('column') === roster[part] ? 'ring-2 ring-ochre-fill' : ''}`}
          {...ids}
          value={roster[part]}
          onPick={(column) => {
            void change((next) => {
              next[part] = column;
            });
          }}
        >
          {!columns.some((column) => column.name === roster[part]) && <option>{roster[part]}</option>}
          {columns.map((column) => (
            <option key={column.name} value={column.name}>
              {names.column(roster.table, column.name)}
            </option>
          ))}
        </Select>
      )}
    </Field>
  );
  return (
    <>
      <StageHead title={`Members from ${names.table(roster.table)}`}>
        <Question
          trigger={
            <Button small weight="danger">
              Remove
            </Button>
          }
          title={`Remove the roster ${names.table(roster.table)}?`}
          says={
            <p>
              {counted(members.data?.total ?? 0, 'member')} came from it. Once this is published they can't come in any
              more, unless another roster has them. The table itself stays.
            </p>
          }
          keep="Keep the roster"
          go="Remove the roster"
          onGo={() =>
            void edit(`Remove the roster ${roster.table}`, (next) => {
              next.rosters = next.rosters.filter((each) => each.table !== roster.table);
            })
          }
        />
      </StageHead>
      <div className="grid max-w-200 gap-4 p-4 md:grid-cols-2">
        {choose('Name is in', 'name')}
        {choose('E-mail is in', 'email')}
        <Field label="Further parts of the name" hint="Said after the first">
          {(ids) => (
            <Select
              {...ids}
              value={roster.nameFurther?.[0] ?? ''}
              onPick={(column) => {
                void change((next) => {
                  if (column === '') delete next.nameFurther;
                  else next.nameFurther = [column];
                });
              }}
            >
              <option value="">none</option>
              {columns
                .filter((column) => column.name !== roster.name)
                .map((column) => (
                  <option key={column.name} value={column.name}>
                    {names.column(roster.table, column.name)}
                  </option>
                ))}
            </Select>
          )}
        </Field>
        <Field label="Organisation is in" hint="Records of it are a member's own">
          {(ids) => (
            <Select
              {...ids}
              value={roster.organisation ?? ''}
              onPick={(column) => {
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
                  <option key={column.name} value={column.name}>
                    {names.column(roster.table, column.name)}
                  </option>
                ))}
            </Select>
          )}
        </Field>
        <Field label="Everyone on it is">
          {(ids) => (
            <Select
              {...ids}
              value={roster.role ?? ''}
              onPick={(role) => {
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
            </Select>
          )}
        </Field>
      </div>
      {table && <WhoCounts roster={roster} table={table} onChange={change} />}
      {table && <RoleRules roster={roster} table={table} roles={roles} onChange={change} />}
      <MemberList roster={roster.table} />
    </>
  );
}
