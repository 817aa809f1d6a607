import { strictestMask } from '../../../core/access/lens';
import { columnLabel } from '../../../core/definition/definition';
import { maskStyleNames, maskTakes, type Mask, type MaskStyleName } from '../../../core/mask/mask';
import { plainLabel, type Table } from '../../../core/table/catalogue';
import { Stones, type Level } from '../../ui/Stones';
import { useBench } from '../bench-context';
import { maskChoices } from './mask-choices';
import { levelOf, setLevel, setMask } from './set-level';

const levels: Level[] = ['hidden', 'masked', 'shown', 'editable'];

/** The level of one column for one role, and how it is masked. */
export function ColumnLevel({ table, role, column }: { table: Table; role: { id: string; name: string }; column: string }) {
  const { draft, edit } = useBench();
  const type = table.columns.find((each) => each.name === column);
  if (!type) return null;
  const level = levelOf(draft, table, role.id, column);
  const fixed = type.automatic || table.key.includes(column);
  const mask = strictestMask(draft, table, column, role.id);
  const choose = (next: Level) => void edit(`Make ${table.name}.${column} ${next} for ${role.name}`, (d) => setLevel(d, table, role.id, column, next));
  const style = (next: Mask) => void edit(`Mask ${table.name}.${column} for ${role.name}`, (d) => setMask(d, table.name, column, role.id, next));
  return (
    <div className="grid gap-2">
      <h2>{columnLabel(draft, table.name, column, plainLabel)} for {role.name}</h2>
      <div className="flex flex-wrap items-center gap-4">
        <fieldset className="flex flex-wrap gap-1"><legend className="sr-only">Level</legend>
          {levels.map((each) => (
            <label key={each} className={`inline-flex cursor-pointer items-center gap-2 rounded-stone border px-2.5 py-1 ${each === level ? 'border-line-strong bg-sunk font-semibold' : 'border-line'} ${each === 'editable' && fixed ? 'opacity-50' : ''}`}>
              <input type="radio" className="sr-only peer" name="level" value={each} checked={each === level} disabled={each === 'editable' && fixed} onChange={() => choose(each)} />
              <span className="inline-flex items-center gap-2 peer-focus-visible:outline-2 outline-offset-4 outline-water"><Stones level={each} />{each}</span>
            </label>
          ))}
        </fieldset>
        {mask && (
          <label className="inline-flex items-center gap-2">what stays
            <select className="field w-auto" value={mask.style} onChange={(event) => style(maskChoices[event.target.value as MaskStyleName].start)}>
              {maskStyleNames.filter((name) => maskTakes(maskChoices[name].start, type)).map((name) => <option key={name} value={name}>{maskChoices[name].words}</option>)}
            </select>
            {(mask.style === 'keep last' || mask.style === 'keep first' || mask.style === 'area') && <input type="number" min={1} max={20} aria-label="How many characters" className="field w-20" value={mask.count} onChange={(event) => { const count = Number(event.target.value); if (Number.isInteger(count) && count >= 1 && count <= 20) style({ ...mask, count }); }} />}
          </label>
        )}
      </div>
      {fixed && <p className="text-sm text-soft">{table.key.includes(column) ? 'The primary key can\'t be edited.' : 'The database fills this column by itself.'}</p>}
    </div>
  );
}
