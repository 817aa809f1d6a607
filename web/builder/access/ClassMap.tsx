import { dataClasses, dataClassOf, type DataClass } from '../../../core/definition/definition';
import { counted } from '../../../core/text/counted';
import { DataTable } from '../../ui/DataTable';
import { hint } from '../../ui/hint';
import { Stones } from '../../ui/Stones';
import { useBench } from '../bench/bench-context';
import { levelOf } from './set-level';

/** Data classes against roles: how many columns a role sees, whole or masked. Pressed, one is looked up. */
export function ClassMap({ onAsk }: { onAsk: (of: DataClass) => void }) {
  const { draft, catalogue } = useBench();
  const classes = dataClasses.flatMap((each) => {
    const columns = catalogue.tables.flatMap((table) =>
      table.columns
        .filter((column) => dataClassOf(draft, table, column.name) === each)
        .map((column) => ({ table, column: column.name })),
    );
    return columns.length > 0 ? [{ name: each, columns }] : [];
  });
  if (classes.length === 0)
    return <p className="text-soft">No column has a data class yet. Classes are given under Data.</p>;
  return (
    <div className="grid gap-2">
      <p className="text-soft">
        How many columns of each data class a role sees whole, and how many masked. Press one to see who that is.
      </p>
      <DataTable
        label="Data classes against roles"
        head={['Data class', ...draft.roles.map((role) => role.name)]}
        framed
      >
        {classes.map(({ name, columns }) => (
          <tr key={name}>
            <td className="whitespace-nowrap">
              <button type="button" className="text-water underline" onClick={() => onAsk(name)}>
                {name}
              </button>
              <span className="block text-sm text-soft">{counted(columns.length, 'column')}</span>
            </td>
            {draft.roles.map((role) => {
              const levels = columns.map(({ table, column }) => levelOf(draft, table, role.id, column));
              const whole = levels.filter((level) => level === 'shown' || level === 'editable').length;
              const masked = levels.filter((level) => level === 'masked').length;
              const level = whole > 0 ? 'shown' : masked > 0 ? 'masked' : 'hidden';
              const words = [whole > 0 && `${whole} whole`, masked > 0 && `${masked} masked`]
                .filter(Boolean)
                .join(', ');
              return (
                <td key={role.id}>
                  <button
                    type="button"
                    className="inline-flex min-h-7 items-center gap-2 rounded-stone px-1 text-left hover:bg-sunk"
                    aria-label={`${role.name}, ${name}: ${words || 'nothing'}`}
                    {...hint(`${role.name} sees of ${name}: ${words || 'nothing'}`)}
                    onClick={() => onAsk(name)}
                  >
                    <Stones level={level} />
                    <span className={`whitespace-nowrap text-sm ${words ? '' : 'text-soft'}`}>{words || '–'}</span>
                  </button>
                </td>
              );
            })}
          </tr>
        ))}
      </DataTable>
    </div>
  );
}
