import type { Roster } from '../../../core/definition/definition';
import type { Table } from '../../../core/table/catalogue';
import { Button } from '../../ui/Button';
import { firstCondition } from '../access/choices';
import { ConditionEditor } from '../access/ConditionEditor';
import type { ChangeRoster } from './RoleRules';

/** Which rows of a roster make members. */
export function WhoCounts({ roster, table, onChange }: { roster: Roster; table: Table; onChange: ChangeRoster }) {
  const first = () => {
    const active = table.columns.find((column) => column.type === 'yes/no');
    return active
      ? {
          kind: 'compare' as const,
          left: { kind: 'column' as const, path: [active.name] },
          comparison: '=' as const,
          right: { kind: 'boolean' as const, value: true },
        }
      : firstCondition(table);
  };
  return (
    <section aria-label="Who counts" className="grid max-w-200 gap-3 px-4 pb-4">
      <h2 className="text-base">Who counts</h2>
      {roster.where === undefined ? (
        <p className="flex flex-wrap items-center gap-3 text-soft">
          Every row with an e-mail makes a member.
          <Button small onClick={() => void onChange((next) => void (next.where = first()))}>
            Only where …
          </Button>
        </p>
      ) : (
        <div className="grid gap-2 rounded-stone border border-line bg-paper p-3">
          <div className="flex items-center gap-2">
            <span>A row makes a member where</span>
            <Button small className="ml-auto" onClick={() => void onChange((next) => void delete next.where)}>
              Every row
            </Button>
          </div>
          <ConditionEditor
            alone
            table={table}
            name="Who counts"
            value={roster.where}
            onChange={(where) =>
              onChange((next) => {
                next.where = where;
              })
            }
          />
        </div>
      )}
    </section>
  );
}
