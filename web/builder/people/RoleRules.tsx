import { describeCondition } from '../../../core/condition/describe';
import type { Role, Roster } from '../../../core/definition/definition';
import type { Table } from '../../../core/table/catalogue';
import { useNaming } from '../bench/names';
import { Button } from '../../ui/Button';
import { firstCondition } from '../access/choices';
import { ConditionEditor } from '../access/ConditionEditor';
import { Select } from '../../ui/Select';

export type ChangeRoster = (recipe: (roster: Roster) => void) => Promise<string | null>;

/** Roles by rule: a member has each role whose condition their row fulfils. */
export function RoleRules({
  roster,
  table,
  roles,
  onChange,
}: {
  roster: Roster;
  table: Table;
  roles: Role[];
  onChange: ChangeRoster;
}) {
  const rules = roster.roles ?? [];
  const naming = useNaming();
  const nameOf = (id: string) => roles.find((role) => role.id === id)?.name ?? id;
  const add = () => {
    // Beginning with a column of few choices, and with the first of them that no rule asks yet.
    const column = table.columns.find((each) => each.choices && each.type === 'one choice');
    const used = rules.map((rule) =>
      rule.where.kind === 'compare' && rule.where.right.kind === 'text' ? rule.where.right.text : '',
    );
    const where = column
      ? {
          kind: 'compare' as const,
          left: { kind: 'column' as const, path: [column.name] },
          comparison: '=' as const,
          right: {
            kind: 'text' as const,
            text: column.choices!.find((choice) => !used.includes(choice)) ?? column.choices![0]!,
          },
        }
      : firstCondition(table);
    const role =
      roles.find((each) => each.id !== roster.role && !rules.some((rule) => rule.role === each.id)) ?? roles[0]!;
    void onChange((next) => {
      (next.roles ??= []).push({ role: role.id, where });
    });
  };
  return (
    <section aria-label="Roles by rule" className="grid max-w-200 gap-3 px-4 pb-4">
      <h2 className="text-base">Roles by rule</h2>
      {rules.length === 0 && (
        <p className="text-soft">
          {roster.role === undefined
            ? `Nobody from ${roster.table} has a role yet.`
            : 'None: what a row holds makes no difference.'}
        </p>
      )}
      <ul className="grid gap-3">
        {rules.map((rule, i) => (
          <li
            key={i}
            aria-label={`${nameOf(rule.role)} where ${describeCondition(rule.where, naming(roster.table))}`}
            className="grid gap-2 rounded-stone border border-line bg-paper p-3"
          >
            <div className="flex items-center gap-2">
              <label className="flex items-center gap-2">
                A member is{' '}
                <Select
                  className="w-auto"
                  value={rule.role}
                  onPick={(role) => {
                    void onChange((next) => {
                      next.roles![i]!.role = role;
                    });
                  }}
                >
                  {roles.map((role) => (
                    <option key={role.id} value={role.id}>
                      {role.name}
                    </option>
                  ))}
                </Select>
              </label>
              <span>where</span>
              <Button
                small
                className="ml-auto"
                onClick={() =>
                  void onChange((next) => {
                    next.roles!.splice(i, 1);
                    if (next.roles!.length === 0 && next.role !== undefined) delete next.roles;
                  })
                }
              >
                Remove<span className="sr-only"> the rule of {nameOf(rule.role)}</span>
              </Button>
            </div>
            <ConditionEditor
              alone
              table={table}
              name="Role rule"
              value={rule.where}
              onChange={(where) =>
                onChange((next) => {
                  next.roles![i]!.where = where;
                })
              }
            />
          </li>
        ))}
      </ul>
      <div>
        <Button small disabled={roles.length === 0} onClick={add}>
          + role by rule
        </Button>
      </div>
    </section>
  );
}
