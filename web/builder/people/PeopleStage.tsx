import { counted } from '../../../core/text/counted';
import { useState, type FormEvent } from 'react';
import { freeId } from '../../../core/definition/free-id';
import { findTable } from '../../../core/table/catalogue';
import { rolesGiven } from '../../../core/access/roster-roles';
import type { Role } from '../../../core/definition/definition';
import type { Audience } from '../../../core/definition/section-kinds';
import { useFindings } from '../../client/builder';
import { Button } from '../../ui/Button';
import { Field } from '../../ui/Field';
import { Notice } from '../../ui/Notice';
import { useBench } from '../bench/bench-context';
import { StageFrame, StageHead } from '../bench/StageFrame';
import { Members } from './Members';
import { MemberView } from './MemberView';
import { Invitations } from './Invitations';
import { Outbox } from './Outbox';
import { SigningIn } from './SigningIn';
import { SignUps } from './SignUps';
import { Stewards } from './Stewards';
import { RosterView } from './RosterView';
import { Question } from '../../ui/Question';
import { Select } from '../../ui/Select';
import { useNames } from '../bench/names';

const screens = [
  { key: '~signing-in', label: 'Signing in', Body: SigningIn },
  { key: '~sign-up', label: 'Sign-up', Body: SignUps },
  { key: '~invitations', label: 'Invitations', Body: Invitations },
  { key: '~outbox', label: 'Outbox', Body: Outbox },
];

/** Roles, the rosters that members come from, the members, and how they come in. */
export default function PeopleStage() {
  const { draft, object, to, state, slug } = useBench();
  const names = useNames();
  const findings = useFindings(slug, state.revision);
  const roster = draft.rosters.find((each) => each.table === object);
  const member = /^~member-(\d{1,15})$/.exec(object ?? '')?.[1] ? Number(object!.slice('~member-'.length)) : null;
  const screen = screens.find(({ key }) => key === object);
  const groups = [
    {
      title: 'Everyone',
      items: [
        {
          key: 'members',
          label: 'Members',
          to: to('people', 'members'),
          current: object === null || object === 'members' || member !== null,
        },
        {
          key: 'roles',
          label: 'Roles',
          aside: draft.roles.length,
          to: to('people', 'roles'),
          current: object === 'roles',
        },
        {
          key: '~stewards',
          label: 'Stewards',
          aside: draft.stewards?.length ?? 0,
          to: to('people', '~stewards'),
          current: object === '~stewards',
        },
      ],
    },
    {
      title: 'Coming in',
      items: screens.map(({ key, label }) => ({
        key,
        label,
        to: to('people', key),
        current: object === key,
      })),
    },
    {
      title: 'Rosters',
      items: draft.rosters.map((each) => ({
        key: each.table,
        label: names.table(each.table),
        raw: each.table,
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
      ) : object === '~stewards' ? (
        <Stewards />
      ) : object === null || object === 'members' ? (
        <Members />
      ) : screen ? (
        <screen.Body />
      ) : member ? (
        <MemberView key={member} id={member} />
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
  const names = useNames();
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
      const given = role ?? { id: freeId('member', next.roles), name: 'Member' };
      // Where there is no role yet, its people get a first one.
      if (!role) next.roles.push(given);
      next.rosters.push({ table, name: pick(/name/i), email: pick(/e_?-?mail/i), role: given.id });
    });
  return (
    <div className="px-4 py-1">
      <label className="grid gap-1 text-sm text-soft">
        Add a roster
        <Select
          className="text-ink"
          value=""
          onPick={(picked) => {
            if (picked) add(picked);
          }}
        >
          <option value="">choose a table</option>
          {free.map((table) => (
            <option key={table.name} value={table.name}>
              {names.table(table.name)}
            </option>
          ))}
        </Select>
      </label>
      {!role && <p className="mt-1 text-sm text-soft">Its people get a first role, Member.</p>}
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
  /** What a role is used for, in words; nothing when it can go. */
  const uses = (id: string): string[] => {
    const rosters = draft.rosters.filter((roster) => rolesGiven(roster).includes(id)).length;
    const tables = Object.values(draft.access).filter((roles) => roles[id]).length;
    const stewards = (draft.stewards ?? []).filter(
      (steward) => steward.role === id || ('roles' in steward && steward.roles.includes(id)),
    ).length;
    const pages = draft.pages.filter((page) =>
      audiencesIn(page).some(({ roles }) => roles !== 'everyone' && roles.includes(id)),
    ).length;
    const sheets = Object.values(draft.sheets).filter((sheet) =>
      audiencesIn(sheet).some(({ roles }) => roles !== 'everyone' && roles.includes(id)),
    ).length;
    return [
      ...(rosters > 0 ? [counted(rosters, 'roster')] : []),
      ...(tables > 0 ? [counted(tables, 'table')] : []),
      ...(stewards > 0 ? [counted(stewards, 'steward')] : []),
      ...(pages > 0 ? [counted(pages, 'page')] : []),
      ...(sheets > 0 ? [counted(sheets, 'sheet')] : []),
      ...(draft.openTo?.roles.includes(id) ? ['open domains'] : []),
    ];
  };
  const markRowless = (role: Role, isMeant: boolean) =>
    void edit(`Say whether ${role.name} is for people without a row`, (d) => {
      const found = d.roles.find((each) => each.id === role.id)!;
      if (isMeant) found.withoutRow = true;
      else delete found.withoutRow;
    });
  return (
    <>
      <StageHead title="Roles" />
      <div className="grid max-w-160 gap-4 p-4">
        <ul className="grid gap-2">
          {draft.roles.map((role) => (
            <li key={role.id} className="flex flex-wrap items-center gap-2">
              <input
                className="field min-w-40 flex-1"
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
              <Select
                className="w-36"
                aria-label={`Whom ${role.name} is for`}
                value={role.for ?? 'members'}
                disabled={uses(role.id).length > 0}
                onPick={(picked) => {
                  const whom = picked as NonNullable<Role['for']>;
                  void edit(`Say whom ${role.name} is for`, (d) => {
                    const found = d.roles.find((each) => each.id === role.id);
                    if (found && whom === 'members') delete found.for;
                    else if (found) {
                      found.for = whom;
                      delete found.withoutRow;
                    }
                  });
                }}
              >
                <option value="members">for members</option>
                <option value="visitors">for visitors</option>
                <option value="services">for services</option>
              </Select>
              <Question
                trigger={
                  <Button small disabled={uses(role.id).length > 0}>
                    Remove
                  </Button>
                }
                title={`Remove the role ${role.name}?`}
                says="No roster gives it, no table and no page asks for it. It can be undone."
                keep="Keep it"
                go="Remove the role"
                onGo={() =>
                  void edit(`Remove the role ${role.name}`, (d) => {
                    d.roles = d.roles.filter((each) => each.id !== role.id);
                  })
                }
              />
              <div className="flex basis-full flex-wrap gap-x-4 text-sm text-soft">
                {(role.for ?? 'members') === 'members' && (
                  <label className="inline-flex items-center gap-1.5">
                    <input
                      type="checkbox"
                      aria-label={`${role.name} also without a row`}
                      checked={role.withoutRow ?? false}
                      disabled={draft.openTo?.roles.includes(role.id)}
                      onChange={(event) => markRowless(role, event.target.checked)}
                    />{' '}
                    also without a row
                  </label>
                )}
                {uses(role.id).length > 0 && <span>in use by {uses(role.id).join(', ')}</span>}
              </div>
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

/** Every audience in a page, its sections and their parts. */
const audiencesIn = (part: unknown): Audience[] =>
  typeof part !== 'object' || part === null
    ? []
    : Object.entries(part).flatMap(([key, value]: [string, unknown]) =>
        key === 'audience' && isAudience(value) ? [value] : audiencesIn(value),
      );

/** A column may have that name, too. */
const isAudience = (value: unknown): value is Audience =>
  typeof value === 'object' && value !== null && 'roles' in value;
