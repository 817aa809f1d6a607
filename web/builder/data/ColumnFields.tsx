import { drawnTypes, type DrawnColumn, type DrawnType } from '../../../core/table/drawn';
import { Field } from '../../ui/Field';
import { markColours } from '../../ui/mark-colours';
import { Select } from '../../ui/Select';

export const newColumn = (): DrawnColumn => ({ name: '', type: 'text', required: false, unique: false, initial: null });

/** What a column is: its type and what goes with it. */
export function ColumnFields({
  column,
  colours = {},
  tables,
  faults,
  onChange,
  onColours,
  onlyType = false,
  hadInitial = false,
}: {
  column: DrawnColumn;
  colours?: Record<string, number>;
  tables: string[];
  faults: Record<string, string>;
  onChange: (change: Partial<DrawnColumn>) => void;
  onColours?: (colours: Record<string, number>) => void;
  /** Of a column that is there: without its name. */
  onlyType?: boolean;
  hadInitial?: boolean;
}) {
  const isChoice = column.type === 'one choice' || column.type === 'several choices';
  const setType = (type: DrawnType) =>
    onChange({
      type,
      choices: type.endsWith('choice') || type.endsWith('choices') ? (column.choices ?? ['']) : undefined,
      currency: type === 'money' ? (column.currency ?? 'EUR') : undefined,
      to: type === 'relation' ? (column.to ?? tables[0]) : undefined,
      scale: undefined,
      maxLength: undefined,
    });
  const hints: Partial<Record<DrawnType, string>> = {
    date: '“today”, or a day like 2026-11-24',
    'date and time': '“now”, or a moment like 2026-11-24 09:30',
    'yes/no': 'true or false',
  };
  return (
    <div className="grid gap-3 sm:grid-cols-2">
      {!onlyType && (
        <Field label="Name" fault={faults.name ?? faults[column.name]}>
          {(ids) => (
            <input
              className="field font-code"
              autoComplete="off"
              {...ids}
              value={column.name}
              onChange={(event) => onChange({ name: event.target.value })}
            />
          )}
        </Field>
      )}
      <Field label="Type">
        {(ids) => (
          <Select {...ids} value={column.type} onPick={(picked) => setType(picked as DrawnType)}>
            {drawnTypes
              .filter((type) => !onlyType || type !== 'relation')
              .map((type) => (
                <option key={type}>{type}</option>
              ))}
          </Select>
        )}
      </Field>
      {column.type === 'text' && (
        <Field label="Longest" hint="characters">
          {(ids) => (
            <input
              className="field"
              type="number"
              min={1}
              max={4000}
              {...ids}
              value={column.maxLength ?? 255}
              onChange={(event) => onChange({ maxLength: Number(event.target.value) || 255 })}
            />
          )}
        </Field>
      )}
      {column.type === 'decimal' && (
        <Field label="Digits after the point">
          {(ids) => (
            <input
              className="field"
              type="number"
              min={0}
              max={10}
              {...ids}
              value={column.scale ?? 2}
              onChange={(event) => onChange({ scale: Number(event.target.value) || 0 })}
            />
          )}
        </Field>
      )}
      {column.type === 'money' && (
        <Field label="Currency" hint="Three letters (ISO 4217)">
          {(ids) => (
            <input
              className="field"
              maxLength={3}
              {...ids}
              value={column.currency ?? ''}
              onChange={(event) => onChange({ currency: event.target.value.toUpperCase() })}
            />
          )}
        </Field>
      )}
      {column.type === 'relation' && (
        <Field label="Leads to a record of" fault={faults[`${column.name}`]}>
          {(ids) => (
            <Select {...ids} value={column.to ?? ''} onPick={(picked) => onChange({ to: picked })}>
              {tables.map((table) => (
                <option key={table}>{table}</option>
              ))}
            </Select>
          )}
        </Field>
      )}
      {isChoice && (
        <fieldset className="grid gap-1 sm:col-span-2">
          <legend className="text-sm font-semibold">Choices, in their order</legend>
          {(column.choices ?? []).map((choice, i) => (
            <div key={i} className="flex gap-2">
              <input
                className="field flex-1"
                aria-label={`Choice ${i + 1}`}
                value={choice}
                onChange={(event) => onChange({ choices: column.choices!.with(i, event.target.value) })}
              />
              {onColours && (
                <Select
                  className="w-32"
                  aria-label={`Colour of choice ${i + 1}`}
                  value={colours[choice] ?? ''}
                  onPick={(picked) => {
                    const { [choice]: _was, ...rest } = colours;
                    onColours(picked === '' ? rest : { ...rest, [choice]: Number(picked) });
                  }}
                >
                  <option value="">no colour</option>
                  {markColours.map((word, place) => (
                    <option key={word} value={place}>
                      {word}
                    </option>
                  ))}
                </Select>
              )}
              <button
                type="button"
                className="px-2 text-water underline"
                onClick={() => onChange({ choices: column.choices!.filter((_, j) => j !== i) })}
              >
                take it away
              </button>
            </div>
          ))}
          <button
            type="button"
            className="justify-self-start text-water underline"
            onClick={() => onChange({ choices: [...(column.choices ?? []), ''] })}
          >
            another choice
          </button>
        </fieldset>
      )}
      {column.type !== 'long text' && column.type !== 'relation' && column.type !== 'file' && (
        <Field
          label="Initial value"
          hint={
            onlyType && hadInitial
              ? 'It has one now; write it again if it shall keep one.'
              : (hints[column.type] ?? 'Empty for none')
          }
          fault={faults.initial}
        >
          {(ids) => (
            <input
              className="field"
              autoComplete="off"
              {...ids}
              value={column.initial ?? ''}
              onChange={(event) => onChange({ initial: event.target.value || null })}
            />
          )}
        </Field>
      )}
      <div className="flex items-end gap-5 pb-1.5">
        <label className="flex items-center gap-2">
          <input
            type="checkbox"
            checked={column.required}
            onChange={(event) => onChange({ required: event.target.checked })}
          />{' '}
          required
        </label>
        {column.type !== 'long text' && (
          <label className="flex items-center gap-2">
            <input
              type="checkbox"
              checked={column.unique}
              onChange={(event) => onChange({ unique: event.target.checked })}
            />{' '}
            each value once
          </label>
        )}
      </div>
    </div>
  );
}

/** As the server takes it. */
export function tidy(column: DrawnColumn): DrawnColumn {
  return {
    ...column,
    name: column.name.trim(),
    ...(column.choices ? { choices: column.choices.map((choice) => choice.trim()).filter(Boolean) } : {}),
  };
}
