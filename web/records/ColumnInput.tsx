import { lazy, Suspense, type KeyboardEvent, type Ref } from 'react';
import { splitChoices } from '../../core/table/split-choices';
import { Select } from '../ui/Select';
import { isNumeric } from './Cell';
import { DateInput } from './DateInput';
import { labelOf, optionsOf, type InputColumn } from './options';

const RelationInput = lazy(() => import('./RelationInput'));
const FileInput = lazy(() => import('./FileInput'));

/** Where a record stands whose column is filled: its table through the API of whoever fills it. */
interface RecordPlace {
  base: string;
  table: string;
  /** Null for a new record. */
  id: string | null;
}

export interface ColumnInputProps {
  column: InputColumn;
  /** In the form of `plainText`. */
  value: string;
  onChange: (text: string) => void;
  place: RecordPlace;
  /** What the record is called that a relation leads to, where that is known. */
  title?: string | null;
  /** Of the input itself: what ties it to its label, or what its frame does with keys. */
  inputProps?: {
    id?: string;
    'aria-label'?: string;
    'aria-invalid'?: boolean;
    'aria-describedby'?: string;
    onBlur?: () => void;
    onKeyDown?: (event: KeyboardEvent) => void;
  };
  inputRef?: Ref<HTMLInputElement & HTMLTextAreaElement>;
  className?: string;
  /** It stands in the place of a cell, which it fills. */
  inCell?: boolean;
}

/** The one input of a column, by its type. What is typed is given as text; the server reads it. */
export function ColumnInput({
  column,
  value,
  onChange,
  place,
  title = null,
  inputProps = {},
  inputRef,
  className = 'field',
  inCell = false,
}: ColumnInputProps) {
  const frame = inCell ? 'absolute inset-0 z-10' : undefined;
  const bare = inCell ? `absolute inset-0 z-10 ${className}` : className;
  if (column.relation)
    return (
      <Suspense>
        <RelationInput
          base={place.base}
          table={place.table}
          relation={column.relation.name}
          label={column.label}
          value={value}
          title={title}
          onChange={onChange}
          inputProps={inputProps}
          inputRef={inputRef}
          className={className}
          frame={frame}
        />
      </Suspense>
    );
  if (column.kind === 'file')
    return (
      <Suspense>
        <FileInput
          base={place.base}
          table={place.table}
          id={place.id}
          column={column.path}
          label={column.label}
          value={value}
          inputProps={inputProps}
          onSent={onChange}
        />
      </Suspense>
    );
  if (column.type === 'several choices')
    return (
      <Several
        column={column}
        value={value}
        onChange={onChange}
        inputProps={inputProps}
        inputRef={inputRef}
        className={bare}
        inCell={inCell}
      />
    );
  const options = optionsOf(column);
  if (options)
    return (
      <Select {...inputProps} value={value} onPick={onChange}>
        {(column.nullable || value === '') && <option value="">–</option>}
        {options.map(([each, called]) => (
          <option key={each} value={each}>
            {called}
          </option>
        ))}
        {value !== '' && !options.some(([each]) => each === value) && <option>{value}</option>}
      </Select>
    );
  if (column.type === 'date' || column.type === 'date and time')
    return (
      <DateInput
        label={column.label}
        withTime={column.type === 'date and time'}
        value={value}
        onChange={onChange}
        inputProps={inputProps}
        inputRef={inputRef}
        className={className}
        frame={frame}
      />
    );
  const common = { ...inputProps, value, onChange: typed(onChange) };
  if (column.type === 'long text' || (column.maxLength ?? 0) > 150)
    return <textarea rows={3} {...common} ref={inputRef} className={bare} />;
  return (
    <input
      type={column.type === 'time' ? 'time' : 'text'}
      inputMode={isNumeric(column.type) ? 'decimal' : undefined}
      autoComplete="off"
      {...common}
      ref={inputRef}
      className={bare}
    />
  );
}

const typed = (onChange: (text: string) => void) => (event: { target: { value: string } }) =>
  onChange(event.target.value);

/** Several choices to tick; in a cell they stand below it, where they are text with commas. */
function Several({
  column,
  value,
  onChange,
  inputProps,
  inputRef,
  className,
  inCell,
}: Pick<ColumnInputProps, 'column' | 'value' | 'onChange' | 'inputProps' | 'inputRef' | 'className'> & {
  inCell: boolean;
}) {
  const choices = column.choices ?? [];
  const chosen = splitChoices(value, choices);
  const ticks = choices.map((choice) => (
    <label
      key={choice}
      className="flex min-h-7 items-center gap-2 whitespace-nowrap"
      // The cell keeps the focus, and with it what is typed.
      onPointerDown={inCell ? (event) => event.preventDefault() : undefined}
    >
      <input
        type="checkbox"
        tabIndex={inCell ? -1 : undefined}
        checked={chosen.includes(choice)}
        onChange={(event) =>
          onChange(
            choices.filter((each) => (each === choice ? event.target.checked : chosen.includes(each))).join(', '),
          )
        }
      />{' '}
      {labelOf(column.labels, choice) ?? choice}
    </label>
  ));
  if (!inCell)
    return (
      <div id={inputProps?.id} role="group" aria-label={column.label} className="flex flex-wrap gap-x-4">
        {ticks}
      </div>
    );
  return (
    <>
      <input
        type="text"
        autoComplete="off"
        {...inputProps}
        ref={inputRef}
        className={className}
        value={value}
        onChange={typed(onChange)}
      />
      <div className="absolute left-0 top-full z-20 grid min-w-full gap-1 border border-line-strong bg-paper p-2">
        {ticks}
      </div>
    </>
  );
}
