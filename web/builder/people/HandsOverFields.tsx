import type { HandsOver } from '../../../core/definition/steward';
import { findTable } from '../../../core/table/catalogue';
import { Button } from '../../ui/Button';
import { Notice } from '../../ui/Notice';
import { Select } from '../../ui/Select';
import { useBench } from '../bench/bench-context';
import { useNames } from '../bench/names';
import { handedOver } from './hand-over-tables';
import { Narrowed, RosterChoice, StewardRole, useStewardEdit } from './StewardParts';

/** Which records go from whom to whom. */
export function HandsOverFields({ steward }: { steward: HandsOver }) {
  const { catalogue } = useBench();
  const names = useNames();
  const change = useStewardEdit(steward);
  const people = findTable(catalogue, steward.roster);
  const possible = handedOver(catalogue, steward.roster);
  const free = possible.filter(({ table }) => !steward.tables.some((each) => each.table === table));
  if (!people) return <Notice kind="fault">There is no table {steward.roster} any more.</Notice>;
  const setRoster = (roster: string) => {
    const [first] = handedOver(catalogue, roster);
    if (!first) return;
    void change('Choose between whom records are handed over', (each) => {
      each.roster = roster;
      each.tables = [first];
      delete each.where;
    });
  };
  return (
    <>
      <div className="flex flex-wrap gap-x-6 gap-y-2">
        <StewardRole steward={steward} />
        <RosterChoice label="hands over between" value={steward.roster} onPick={setRoster} />
      </div>
      <Narrowed
        table={people}
        name="Between which people"
        all="Between all of them whom the steward sees."
        value={steward.where}
        onChange={(where) =>
          change('Set between whom records are handed over', (each) => {
            if (where) each.where = where;
            else delete each.where;
          })
        }
      />
      <ul className="grid gap-3">
        {steward.tables.map((part, i) => {
          const table = findTable(catalogue, part.table);
          return (
            <li key={part.table} className="grid gap-2 rounded-stone border border-line p-3">
              <div className="flex flex-wrap items-center gap-3">
                <span className="mr-auto">
                  <strong>{names.table(part.table)}</strong>, by {names.column(part.table, part.column)}
                </span>
                <Button
                  small
                  disabled={steward.tables.length === 1}
                  onClick={() =>
                    void change(`Hand over no ${part.table}`, (each) => {
                      each.tables = each.tables.filter(({ table: name }) => name !== part.table);
                    })
                  }
                >
                  Remove<span className="sr-only"> {names.table(part.table)}</span>
                </Button>
              </div>
              {table ? (
                <Narrowed
                  table={table}
                  name={`Which ${names.tableInText(part.table)}`}
                  all="All that the steward sees."
                  value={part.where}
                  onChange={(where) =>
                    change(`Set which ${part.table} are handed over`, (each) => {
                      if (where) each.tables[i]!.where = where;
                      else delete each.tables[i]!.where;
                    })
                  }
                />
              ) : (
                <Notice kind="fault">There is no table {part.table} any more.</Notice>
              )}
            </li>
          );
        })}
      </ul>
      {free.length > 0 && (
        <Select
          className="max-w-80"
          aria-label="Hand over more"
          value=""
          onPick={(picked) => {
            const part = free.find(({ table }) => table === picked);
            if (part)
              void change(`Hand over ${part.table}`, (each) => {
                each.tables.push(part);
              });
          }}
        >
          <option value="">hand over more …</option>
          {free.map(({ table }) => (
            <option key={table} value={table}>
              {names.table(table)}
            </option>
          ))}
        </Select>
      )}
    </>
  );
}
