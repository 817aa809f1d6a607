import { lazy, Suspense } from 'react';
import type { FormFact, FormPart } from '../../core/definition/form';
import { printPath } from '../../core/definition/path';
import { usePlace } from '../../web/place/place';
import { Cell } from '../../web/records/Cell';
import { ColumnInput } from '../../web/records/ColumnInput';
import { Field } from '../../web/ui/Field';
import { InputLabel } from '../../web/records/InputLabel';
import { typedLines, withLines, type FormInfo, type Typed } from './entered';
import { Lines } from './Lines';

const Markdown = lazy(() => import('../text/Markdown'));

/** A part of a step: words, something to read, an input, or lines. */
export function Part({
  part,
  form,
  record,
  typed,
  isRequired,
  faultAt,
  onChange,
}: {
  part: FormPart;
  form: FormInfo;
  record: string | null;
  typed: Typed;
  isRequired: (column: string) => boolean;
  faultAt: (place: string) => string | undefined;
  onChange: (typed: Typed) => void;
}) {
  switch (part.kind) {
    case 'words':
      return (
        <div className="col-span-full">
          <Suspense>
            <Markdown text={part.text} titled />
          </Suspense>
        </div>
      );
    case 'fact':
      return <Fact part={part} form={form} />;
    case 'lines':
      return (
        <Lines
          part={part}
          told={form.lines[part.id]!}
          lines={typedLines(typed, part)}
          faultAt={faultAt}
          onChange={(lines) => onChange(withLines(typed, part.id, lines))}
        />
      );
    case 'input':
      return (
        <Input
          form={form}
          record={record}
          column={part.column}
          hint={part.hint}
          isFixed={part.signed === true}
          isRequired={isRequired(part.column)}
          fault={faultAt(part.column)}
          value={typed[part.column] ?? ''}
          onChange={(text) => onChange({ ...typed, [part.column]: text })}
        />
      );
  }
}

/** What is known already. */
function Fact({ part, form }: { part: FormFact; form: FormInfo }) {
  const fact = form.facts[`${part.of}:${printPath(part.path)}`];
  if (!fact) return null;
  const { column, value, masked } = fact;
  return (
    <div className="grid content-start gap-1">
      <span className="text-sm font-semibold">{column.label}</span>
      <span className="min-h-8 py-1">
        <Cell type={column.type} value={value} masked={masked} notes={column} />
      </span>
    </div>
  );
}

function Input({
  form,
  record,
  column,
  hint,
  isFixed,
  isRequired,
  fault,
  value,
  onChange,
}: {
  form: FormInfo;
  record: string | null;
  column: string;
  hint?: string;
  /** It comes from a link, and can't be changed. */
  isFixed: boolean;
  isRequired: boolean;
  fault?: string;
  value: string;
  onChange: (text: string) => void;
}) {
  const { base } = usePlace();
  const info = form.inputs.find(({ path }) => path === printPath([column]));
  if (!info) return null;
  const field = (
    <Field
      label={<InputLabel label={info.label} mayStayEmpty={!isRequired && !isFixed} />}
      fault={fault}
      hint={isFixed ? [hint, 'From your link'].filter(Boolean).join(' · ') : hint}
    >
      {(ids) => (
        <ColumnInput
          column={{ ...info, nullable: !isRequired }}
          value={value}
          onChange={onChange}
          place={{ base, table: form.table, id: form.changes ? record : null }}
          inputProps={ids}
        />
      )}
    </Field>
  );
  return isFixed ? (
    <fieldset disabled aria-label={info.label}>
      {field}
    </fieldset>
  ) : (
    field
  );
}
