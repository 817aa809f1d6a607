import { counted } from '../../../core/text/counted';
import { useState, type FormEvent } from 'react';
import { useSearchParams } from 'react-router';
import { findTable } from '../../../core/table/catalogue';
import { rolesGiven } from '../../../core/access/roster-roles';
import type { Role, Roster } from '../../../core/definition/definition';
import { problemText } from '../../client/http';
import { useBuilderAction, useFindings, useMembers, type MemberLine } from '../../client/builder';
import { Button } from '../../ui/Button';
import { Field } from '../../ui/Field';
import { Notice, Skeleton } from '../../ui/Notice';
import { useBench } from '../bench/bench-context';
import { rolesText } from '../bench/PersonChooser';
import { StageFrame, StageHead } from '../bench/StageFrame';
import { RoleRules, type ChangeRoster } from './RoleRules';

/** Roles, the rosters that members come from, and the members. */
export default function PeopleStage() {
  const { draft, object, to, state, slug } = useBench();
  const findings = useFindings(slug, state.revision);
  const roster = draft.rosters.find((each) => each.table === object);
  const groups = [
    {
      title: 'Everyone',
      items: [
        {
          key: 'members',
          label: 'Members',
          to: to('people', 'members'),
          current: object === null || object === 'members',
        },
        {
          key: 'roles',
          label: 'Roles',
          aside: draft.roles.length,
          to: to('people', 'roles'),
          current: object === 'roles',
        },
      ],
    },
    {
      title: 'Rosters',
      items: draft.rosters.map((each) => ({
        key: each.table,
        label: each.table,
        aside: findings.data?.rosters.find((facts) => facts.table === each.table)?.rows.toLocaleString(),
        to: to('people', each.table),
        current: each.table === object,
      })),
    },
  ];
  return (
    <StageFrame title="People" groups={groups} foot={<AddRoster />}>
      {object === 'roles' ? (
        <Roles />
      ) : object === null || object === 'members' ? (
        <Members roster={null} />
      ) : roster ? (
        <RosterView key={roster.table} roster={roster} />
      ) : (
        <div className="p-4">
          <Notice kind="fault">{object} is no roster. Choose one on the left.</Notice>
        </div>
      )}
    </StageFrame>
  );
}

function AddRoster() {
  const { catalogue, draft, edit } = useBench();
  const free = catalogue.tables.filter(
    (table) =>
      table.stored === undefined &&
      table.key.length === 1 &&
      !draft.rosters.some((roster) => roster.table === table.name),
  );
  const role = draft.roles.find((each) => (each.for ?? 'members') === 'members');
  const add = (table: string) =>
    void edit(`Make ${table} a roster`, (next) => {
      const columns = findTable(catalogue, table)!.columns.map((column) => column.name);
      const pick = (pattern: RegExp) => columns.find((column) => pattern.test(column)) ?? columns[0]!;
      next.rosters.push({ table, name: pick(/name/i), email: pick(/e_?-?mail/i), role: role!.id });
    });
  return (
    <div className="px-4 py-1">
      <label className="grid gap-1 text-sm text-soft">
        Add a roster
        <select
          className="field text-ink"
          value=""
          disabled={!role}
          onChange={(event) => {
            if (event.target.value) add(event.target.value);
          }}
        >
          <option value="">choose a table</option>
          {free.map((table) => (
            <option key={table.name}>{table.name}</option>
          ))}
        </select>
      </label>
      {!role && <p className="mt-1 text-sm text-soft">Make a role for members first.</p>}
    </div>
  );
}

function Roles() {
  const { draft, edit } = useBench();
  const [name, setName] = useState('');
  const [fault, setFault] = useState('');
  const add = async (event: FormEvent) => {
    event.preventDefault();
    const clean = name.trim();
    const id = clean
      .toLowerCase()
      .replaceAll(/[^a-z0-9]+/g, '_')
      .replaceAll(/^[_\d]+|_+$/g, '');
    if (!id) return setFault('Give the role a name with letters in it.');
    if (draft.roles.some((role) => role.id === id || role.name === clean))
      return setFault(`There is a role ${clean} already.`);
    setFault('');
    setName('');
    const problem = await edit(`Add the role ${clean}`, (next) => {
      next.roles.push({ id, name: clean });
    });
    // Given back when it was refused, unless the next one is being typed.
    if (problem !== null) setName((typed) => typed || clean);
  };
  const used = (id: string) =>
    draft.rosters.some((roster) => rolesGiven(roster).includes(id)) ||
    Object.values(draft.access).some((roles) => roles[id]) ||
    draft.pages.some((page) => page.roles.includes(id));
  return (
    <>
      <StageHead title="Roles" />
      <div className="grid max-w-160 gap-4 p-4">
        <ul className="grid gap-2">
          {draft.roles.map((role) => (
            <li key={role.id} className="flex items-center gap-2">
              <input
                className="field"
                aria-label={`Name of ${role.name}`}
                key={role.name}
                defaultValue={role.name}
                maxLength={120}
                onBlur={(event) => {
                  const next = event.target.value.trim();
                  if (next && next !== role.name)
                    void edit(`Rename ${role.name}`, (d) => {
                      d.roles.find((each) => each.id === role.id)!.name = next;
                    });
                }}
              />
              <select
                className="field w-auto"
                aria-label={`Whom ${role.name} is for`}
                value={role.for ?? 'members'}
                disabled={used(role.id)}
                title={used(role.id) ? 'A roster, a grant or a page uses this role' : undefined}
                onChange={(event) => {
                  const whom = event.target.value as NonNullable<Role['for']>;
                  void edit(`Say whom ${role.name} is for`, (d) => {
                    const found = d.roles.find((each) => each.id === role.id);
                    if (found && whom === 'members') delete found.for;
                    else if (found) found.for = whom;
                  });
                }}
              >
                <option value="members">for members</option>
                <option value="visitors">for visitors</option>
                <option value="services">for services</option>
              </select>
              <Button
                small
                disabled={used(role.id)}
                title={used(role.id) ? 'A roster, a grant or a page uses this role' : undefined}
                onClick={() =>
                  void edit(`Remove the role ${role.name}`, (d) => {
                    d.roles = d.roles.filter((each) => each.id !== role.id);
                  })
                }
              >
                Remove
              </Button>
            </li>
          ))}
        </ul>
        <form onSubmit={(event) => void add(event)} className="flex items-end gap-2">
          <div className="flex-1">
            <Field label="New role" fault={fault}>
              {(ids) => (
                <input
                  className="field"
                  {...ids}
                  value={name}
                  onChange={(event) => setName(event.target.value)}
                  maxLength={120}
                />
              )}
            </Field>
          </div>
          <Button type="submit" weight="main">
            Add
          </Button>
        </form>
      </div>
    </>
  );
}

function RosterView({ roster }: { roster: Roster }) {
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

function Members({ roster }: { roster: string | null }) {
  const { slug } = useBench();
  const [search, setSearch] = useState('');
  const [offset, setOffset] = useState(0);
  const members = useMembers(slug, search, roster, offset);
  const refresh = useBuilderAction<{ added: number; updated: number; suspended: number; left: number }>(
    slug,
    'POST',
    '/members/refresh',
  );
  return (
    <>
      {roster === null && (
        <StageHead title="Members">
          <Button small weight="main" disabled={refresh.isPending} onClick={() => refresh.mutate(undefined)}>
            {refresh.isPending ? 'Refreshing …' : 'Refresh from the rosters'}
          </Button>
        </StageHead>
      )}
      <div className="grid gap-3 p-4">
        {roster === null && refresh.data && (
          <Notice kind="say">
            {refresh.data.added} added, {refresh.data.updated} updated, {refresh.data.suspended} suspended;{' '}
            {counted(refresh.data.left, 'row')} {refresh.data.left === 1 ? 'gives' : 'give'} no member. No mail was
            sent.
          </Notice>
        )}
        {refresh.isError && <Notice kind="fault">{problemText(refresh.error)}</Notice>}
        <input
          data-find
          type="search"
          className="field max-w-80"
          aria-label="Find a member"
          placeholder="Find by name or e-mail"
          value={search}
          onChange={(event) => {
            setSearch(event.target.value);
            setOffset(0);
          }}
        />
        {members.isPending && <Skeleton lines={6} />}
        {members.isError && <Notice kind="fault">{problemText(members.error)}</Notice>}
        {members.data?.total === 0 && (
          <Notice kind="say">
            {search ? 'Nobody is called so.' : 'There are no members yet. Set a roster and refresh.'}
          </Notice>
        )}
        {members.data && members.data.total > 0 && (
          <>
            <table className="w-full text-left">
              <thead>
                <tr className="border-b border-line text-sm text-soft">
                  <th scope="col" className="py-1.5 pr-3">
                    Name
                  </th>
                  <th scope="col" className="py-1.5 pr-3">
                    E-mail
                  </th>
                  <th scope="col" className="py-1.5 pr-3">
                    Roster
                  </th>
                  <th scope="col" className="py-1.5 pr-3">
                    Roles
                  </th>
                  <th scope="col" className="py-1.5">
                    <span className="sr-only">Actions</span>
                  </th>
                </tr>
              </thead>
              <tbody>
                {members.data.members.map((member) => (
                  <MemberRow key={member.id} member={member} />
                ))}
              </tbody>
            </table>
            <div className="flex items-center gap-2 text-sm text-soft">
              {offset + 1} to {offset + members.data.members.length} of {members.data.total.toLocaleString()}
              <span className="ml-auto flex gap-2">
                <Button small disabled={offset === 0} onClick={() => setOffset(Math.max(0, offset - 50))}>
                  Back
                </Button>
                <Button small disabled={offset + 50 >= members.data.total} onClick={() => setOffset(offset + 50)}>
                  Further
                </Button>
              </span>
            </div>
          </>
        )}
      </div>
    </>
  );
}

function MemberRow({ member }: { member: MemberLine }) {
  const { slug, draft, setPerson } = useBench();
  const [asking, setAsking] = useState(false);
  const [password, setPassword] = useState('');
  const save = useBuilderAction(slug, 'PUT', `/members/${member.id}/password`);
  const submit = (event: FormEvent) => {
    event.preventDefault();
    save.mutate(
      { password },
      {
        onSuccess: () => {
          setAsking(false);
          setPassword('');
        },
      },
    );
  };
  return (
    <tr className="border-b border-line align-top">
      <td className="py-1.5 pr-3 font-semibold">
        {member.name}
        {!member.active && <span className="text-iron font-normal"> · suspended</span>}
      </td>
      <td className="py-1.5 pr-3 break-all">{member.email}</td>
      <td className="py-1.5 pr-3">{member.rosters.join(', ')}</td>
      <td className="py-1.5 pr-3">{rolesText(member, draft)}</td>
      <td className="py-1 text-right whitespace-nowrap">
        {!asking && (
          <>
            <Button small weight="quiet" onClick={() => setPerson({ id: member.id, name: member.name })}>
              See as<span className="sr-only"> {member.name}</span>
            </Button>
            <Button small weight="quiet" onClick={() => setAsking(true)}>
              {member.canSignIn ? 'New password' : 'Set a password'}
              <span className="sr-only"> for {member.name}</span>
            </Button>
          </>
        )}
        {asking && (
          <form onSubmit={submit} className="grid gap-1 text-left">
            <Field
              label={`Password for ${member.name}`}
              fault={save.isError ? problemText(save.error) : null}
              hint="10 characters at least"
            >
              {(ids) => (
                <input
                  className="field"
                  type="password"
                  autoComplete="new-password"
                  {...ids}
                  value={password}
                  onChange={(event) => setPassword(event.target.value)}
                />
              )}
            </Field>
            <span className="flex gap-1">
              <Button small type="submit" weight="main">
                Set
              </Button>
              <Button small onClick={() => setAsking(false)}>
                Cancel
              </Button>
            </span>
          </form>
        )}
      </td>
    </tr>
  );
}
