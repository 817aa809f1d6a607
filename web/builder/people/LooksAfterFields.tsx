import type { Condition } from '../../../core/condition/tree';
import { rolesGiven } from '../../../core/access/roster-roles';
import { nameColumns } from '../../../core/definition/name-columns';
import { stewardActs, type LooksAfter } from '../../../core/definition/steward';
import { findTable, isClosed } from '../../../core/table/catalogue';
import { Notice } from '../../ui/Notice';
import { Ticks } from '../access/GrantParts';
import { ticking, type ListChange } from '../access/RoleTicks';
import { useBench } from '../bench/bench-context';
import { useNames } from '../bench/names';
import { Narrowed, RosterChoice, StewardRole, useStewardEdit } from './StewardParts';
import { actWords } from './steward-sentence';

/** Whom somebody looks after, what they see and write of their rows, and what else they may do. */
export function LooksAfterFields({ steward }: { steward: LooksAfter }) {
  const { draft, catalogue } = useBench();
  const names = useNames();
  const change = useStewardEdit(steward);
  const roster = draft.rosters.find((each) => each.table === steward.roster);
  const table = findTable(catalogue, steward.roster);
  if (!roster || !table) return <Notice kind="fault">There is no roster {steward.roster} any more.</Notice>;
  const setRoster = (next: string) =>
    void change('Choose whose people are looked after', (each) => {
      const found = draft.rosters.find((other) => other.table === next)!;
      // What was said of the other roster's columns and roles holds for nobody here.
      Object.assign(each, { roster: next, roles: rolesGiven(found).slice(0, 1), sees: [] });
      delete each.where;
      delete each.adds;
      delete each.changes;
    });
  const open = table.columns.filter((column) => column.type !== 'other' && !isClosed(table, column.name));
  const always = [...nameColumns(roster), roster.email];
  const further = open.map(({ name }) => name).filter((name) => !always.includes(name));
  const writable = open
    .filter(({ automatic, name }) => !automatic && !table.key.includes(name))
    .map(({ name }) => name);
  const given = rolesGiven(roster);
  const setColumns = (part: 'adds' | 'changes', tick: ListChange) =>
    void change(part === 'adds' ? 'Set what a new one is given' : 'Set what may be changed', (each) => {
      const columns = tick(each[part] ?? []);
      if (columns.length > 0) each[part] = columns;
      else delete each[part];
    });
  return (
    <>
      <div className="flex flex-wrap gap-x-6 gap-y-2">
        <StewardRole steward={steward} />
        <RosterChoice label="looks after people of" value={steward.roster} onPick={setRoster} />
      </div>
      <fieldset>
        <legend className="text-sm font-semibold">Members who have no other roles than</legend>
        <div className="flex flex-wrap gap-x-4 gap-y-1">
          {given.map((role) => (
            <label key={role} className="inline-flex min-h-6 items-center gap-1.5">
              <input
                type="checkbox"
                checked={steward.roles.includes(role)}
                onChange={(event) =>
                  void change('Set whom a steward looks after', (each) => {
                    const next = ticking(given, role, event.target.checked)(each.roles);
                    // They look after somebody at least.
                    if (next.length > 0) each.roles = next;
                  })
                }
              />{' '}
              {names.role(role)}
            </label>
          ))}
        </div>
      </fieldset>
      <Narrowed
        table={table}
        name="Which rows"
        all="All of them, but never the steward's own row."
        value={steward.where}
        begin={ownSlice(steward, draft.rosters)}
        onChange={(where) =>
          change('Set which people a steward looks after', (each) => {
            if (where) each.where = where;
            else delete each.where;
          })
        }
      />
      <Ticks
        legend={`They see of the row, beside ${always.map((each) => names.column(table.name, each)).join(', ')}`}
        table={table}
        names={further}
        ticked={steward.sees}
        onChange={(tick) =>
          void change('Set what a steward sees', (each) => {
            each.sees = tick(each.sees);
          })
        }
      />
      <Ticks
        legend="They add somebody with (nothing ticked: they add nobody)"
        table={table}
        names={writable}
        ticked={steward.adds ?? []}
        onChange={(tick) => setColumns('adds', tick)}
      />
      <Ticks
        legend="They change"
        table={table}
        names={writable}
        ticked={steward.changes ?? []}
        onChange={(tick) => setColumns('changes', tick)}
      />
      <fieldset>
        <legend className="text-sm font-semibold">And may</legend>
        <div className="flex flex-wrap gap-x-4 gap-y-1">
          {stewardActs.map((act) => (
            <label key={act} className="inline-flex min-h-6 items-center gap-1.5">
              <input
                type="checkbox"
                checked={steward.may.includes(act)}
                onChange={(event) =>
                  void change('Set what a steward may do', (each) => {
                    each.may = stewardActs.filter((one) =>
                      one === act ? event.target.checked : each.may.includes(one),
                    );
                  })
                }
              />{' '}
              {actWords[act]}
            </label>
          ))}
        </div>
      </fieldset>
      <p className="text-sm text-soft">
        A row that would leave the slice, give other roles, or carry an address that stands anywhere else is refused;
        who has further roles is left to the portal&apos;s own people.
      </p>
    </>
  );
}

/** "Of my own organisation", where the steward's own roster says which that is. */
function ownSlice(
  { roster, role }: LooksAfter,
  rosters: ReturnType<typeof useBench>['draft']['rosters'],
): Condition | null {
  const theirs = rosters.find((each) => rolesGiven(each).includes(role));
  const of = rosters.find(({ table }) => table === roster);
  if (!theirs?.organisation || !of?.organisation) return null;
  return {
    kind: 'compare',
    left: { kind: 'column', path: [of.organisation] },
    comparison: '=',
    right: { kind: 'member', fact: [theirs.table, theirs.organisation] },
  };
}
