import { strictestMask } from '../../../core/access/lens';
import { columnLabel } from '../../../core/definition/definition';
import { maskLabel, type Mask } from '../../../core/mask/mask';
import { plainLabel, type Table } from '../../../core/table/catalogue';
import { Link } from 'react-router';
import { Stones, type Level } from '../../ui/Stones';
import { useBench } from '../bench/bench-context';
import { maskLeaves, MaskSettings } from './MaskSettings';
import { levelOf, levels, setLevel, setMask } from './set-level';

/** The focus of a hidden radio button, drawn around what stands beside it. */
const focusBeside = 'peer-focus-visible:outline-2 outline-offset-4 outline-water';

/** The level of one column for one role, and how it is masked. */
export function ColumnLevel({
  table,
  role,
  column,
}: {
  table: Table;
  role: { id: string; name: string };
  column: string;
}) {
  const { draft, edit, to } = useBench();
  const type = table.columns.find((each) => each.name === column);
  if (!type) return null;
  const level = levelOf(draft, table, role.id, column);
  const fixed = type.automatic || table.key.includes(column);
  const mask = strictestMask(draft, table, column, role.id);
  const ofClass =
    mask !== null &&
    !draft.masks.some(
      (rule) =>
        'column' in rule &&
        rule.table === table.name &&
        rule.column === column &&
        JSON.stringify(rule.mask) === JSON.stringify(mask),
    );
  const sees = draft.access[table.name]?.[role.id]?.see !== undefined;
  const choose = (next: Level) =>
    void edit(`Make ${table.name}.${column} ${next} for ${role.name}`, (d) =>
      setLevel(d, table, role.id, column, next),
    );
  const style = (next: Mask) =>
    void edit(`Mask ${table.name}.${column} for ${role.name}`, (d) => setMask(d, table.name, column, role.id, next));
  return (
    <div className="grid gap-2">
      <h2>
        {columnLabel(draft, table.name, column, plainLabel)} for {role.name}
      </h2>
      <div className="flex flex-wrap items-center gap-4">
        <fieldset className="flex flex-wrap gap-1">
          <legend className="sr-only">Level</legend>
          {levels.map((each) => (
            <label
              key={each}
              className={
                'inline-flex cursor-pointer items-center gap-2 rounded-stone border px-2.5 py-1 ' +
                `${each === level ? 'border-line-strong bg-sunk font-semibold' : 'border-line'} ` +
                `${each === 'editable' && fixed ? 'opacity-50' : ''}`
              }
            >
              <input
                type="radio"
                className="sr-only peer"
                name="level"
                value={each}
                checked={each === level}
                disabled={!sees || (each === 'editable' && fixed)}
                onChange={() => choose(each)}
              />
              <span className={`inline-flex items-center gap-2 ${focusBeside}`}>
                <Stones level={each} />
                {each}
              </span>
            </label>
          ))}
        </fieldset>
        {mask && !ofClass && <MaskSettings mask={mask} column={type} onChange={style} />}
      </div>
      {mask && (
        <p className="text-sm text-soft">
          {ofClass ? (
            <>
              The mask on its data class decides: {maskLabel(mask)}.{' '}
              <Link to={to('access', '~masks')}>It is set under Masks.</Link>
            </>
          ) : (
            maskLeaves(mask)
          )}
        </p>
      )}
      {!sees && (
        <p className="text-sm text-soft">
          {role.name} sees no row of {table.name} yet, so every stone is hidden: say below which rows.
        </p>
      )}
      {fixed && (
        <p className="text-sm text-soft">
          {table.key.includes(column)
            ? "The primary key can't be edited."
            : 'The database fills this column by itself.'}
        </p>
      )}
    </div>
  );
}
