import { useRef } from 'react';
import { faultPlace, linesPlace, mostLines } from '../../core/form/lines';
import type { FormLines } from '../../core/definition/form';
import { printPath } from '../../core/definition/path';
import { usePlace } from '../../web/place/place';
import { ColumnInput } from '../../web/records/ColumnInput';
import { Button } from '../../web/ui/Button';
import { Field } from '../../web/ui/Field';
import { InputLabel } from '../../web/records/InputLabel';
import type { FormInfo, Typed } from './entered';

const wide: Record<number, string> = {
  1: '',
  2: '@min-[560px]:grid-cols-2',
  3: '@min-[560px]:grid-cols-2 @min-[820px]:grid-cols-3',
};

/** Records that are sent with the form's own: as many as somebody enters. */
export function Lines({
  part,
  told,
  lines,
  faultAt,
  onChange,
}: {
  part: FormLines;
  told: FormInfo['lines'][string];
  lines: Typed[];
  faultAt: (place: string) => string | undefined;
  onChange: (lines: Typed[]) => void;
}) {
  const frame = useRef<HTMLFieldSetElement>(null);
  const fault = faultAt(linesPlace(part.id));
  const add = () => {
    onChange([...lines, {}]);
    // The first input of the new line, once it is there.
    setTimeout(() => {
      frame.current?.querySelector<HTMLElement>('li:last-child :is(input, textarea, select, button)')?.focus();
    });
  };
  return (
    <fieldset
      ref={frame}
      className="col-span-full grid gap-2"
      aria-describedby={fault ? `${part.id}-fault` : undefined}
    >
      <legend className="mb-1 text-sm font-semibold">{told.label}</legend>
      {lines.length > 0 && (
        <ol className="grid gap-2">
          {lines.map((line, i) => (
            <li
              key={i}
              aria-label={`${told.label} ${i + 1}`}
              className="flex items-start gap-3 border-l-3 border-line pl-3"
            >
              <div className={`grid flex-1 items-start gap-3 ${wide[Math.min(3, part.inputs.length)]}`}>
                <LineInputs
                  part={part}
                  told={told}
                  line={line}
                  faultAt={(column) => faultAt(faultPlace(part.id, i, column))}
                  onChange={(next) => onChange(lines.map((each, at) => (at === i ? next : each)))}
                />
                {faultAt(faultPlace(part.id, i, '')) && (
                  <p className="col-span-full text-sm font-medium text-iron">{faultAt(faultPlace(part.id, i, ''))}</p>
                )}
              </div>
              <Button small className="mt-6" onClick={() => onChange(lines.filter((_, at) => at !== i))}>
                Take out<span className="sr-only"> {i + 1}</span>
              </Button>
            </li>
          ))}
        </ol>
      )}
      {fault && (
        <p id={`${part.id}-fault`} className="text-sm font-medium text-iron">
          {fault}
        </p>
      )}
      {lines.length < (part.most ?? mostLines) && (
        <Button small className="justify-self-start" aria-invalid={fault ? true : undefined} onClick={add}>
          {lines.length === 0 ? 'Add one' : 'Add another'}
          <span className="sr-only"> of {told.label}</span>
        </Button>
      )}
    </fieldset>
  );
}

function LineInputs({
  part,
  told,
  line,
  faultAt,
  onChange,
}: {
  part: FormLines;
  told: FormInfo['lines'][string];
  line: Typed;
  faultAt: (column: string) => string | undefined;
  onChange: (line: Typed) => void;
}) {
  const { base } = usePlace();
  return part.inputs.map(({ column, required }) => {
    const info = told.inputs.find(({ path }) => path === printPath([column]));
    if (!info) return null;
    return (
      <Field
        key={column}
        label={<InputLabel label={info.label} mayStayEmpty={required !== true} />}
        fault={faultAt(column)}
      >
        {(ids) => (
          <ColumnInput
            column={{ ...info, nullable: required !== true }}
            value={line[column] ?? ''}
            onChange={(text) => onChange({ ...line, [column]: text })}
            place={{ base, table: part.table, id: null }}
            inputProps={ids}
          />
        )}
      </Field>
    );
  });
}
