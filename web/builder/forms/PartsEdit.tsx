import { ArrowDown, ArrowUp } from 'lucide-react';
import { useState } from 'react';
import type { Form, FormFact, FormInput, FormLines, FormPart } from '../../../core/definition/form';
import { findColumn, type Table } from '../../../core/table/catalogue';
import { Button } from '../../ui/Button';
import { Select } from '../../ui/Select';
import { useBench } from '../bench/bench-context';
import { useNames } from '../bench/names';
import type { ChangeForm } from './form-edits';
import { factChoicesOf, lineChoices, movePart, newLines, unasked } from './form-edits';
import { FirstValue } from './FirstValue';
import { LinesEdit } from './LinesEdit';
import { factWords, partWords } from './part-words';
import { AtTimes } from './AtTimes';

/** What a step asks and says, in its order. */
export function PartsEdit({
  form,
  at,
  table,
  columns,
  onChange,
}: {
  form: Form;
  at: number;
  table: Table;
  columns: string[];
  onChange: ChangeForm;
}) {
  const names = useNames();
  const { parts, title } = form.steps[at]!;
  const { draft, catalogue } = useBench();
  const free = unasked(form, columns);
  const facts = factChoicesOf(draft, catalogue, form);
  const lines = lineChoices(draft, catalogue, form);
  const change = (place: number, label: string, recipe: (part: FormPart) => void) =>
    onChange(label, (next) => recipe(next.steps[at]!.parts[place]!));
  const add = (part: FormPart, label: string) => void onChange(label, (next) => void next.steps[at]!.parts.push(part));
  return (
    <div className="grid gap-2">
      <ul className="grid gap-1">
        {parts.map((part, place) => (
          <PartEdit
            key={part.kind === 'input' ? part.column : `words ${place}`}
            part={part}
            form={form}
            table={table}
            isFirst={at === 0 && place === 0}
            isLast={at === form.steps.length - 1 && place === parts.length - 1}
            onChange={(label, recipe) => change(place, label, recipe)}
            onMove={(by) => void onChange(`Move a part of ${title}`, (next) => movePart(next.steps, at, place, by))}
            onRemove={() =>
              void onChange(`Take a part out of ${title}`, (next) => void next.steps[at]!.parts.splice(place, 1))
            }
          />
        ))}
      </ul>
      <span role="group" aria-label={`Add to ${title}`} className="flex flex-wrap gap-1">
        {free.map((column) => (
          <Button
            key={column}
            small
            weight="quiet"
            onClick={() => add({ kind: 'input', column }, `Ask for ${names.column(table.name, column)}`)}
          >
            + {names.column(table.name, column)}
          </Button>
        ))}
        <Button small weight="quiet" onClick={() => add({ kind: 'words', text: 'Words' }, `Put words into ${title}`)}>
          + words
        </Button>
      </span>
      <span className="flex flex-wrap gap-2">
        {facts.length > 0 && (
          <Select
            aria-label={`Show something in ${title}`}
            className="w-auto"
            value=""
            onPick={(key) => {
              const found = facts.find((each) => each.key === key);
              if (found)
                add(
                  { kind: 'fact', of: found.of, path: found.path },
                  `Show ${factWords(names, form, found)} in ${title}`,
                );
            }}
          >
            <option value="">+ something to read …</option>
            {facts.map((fact) => (
              <option key={fact.key} value={fact.key}>
                {factWords(names, form, fact)}
              </option>
            ))}
          </Select>
        )}
        {lines.length > 0 && !form.changes && (
          <Select
            aria-label={`Send lines with ${title}`}
            className="w-auto"
            value=""
            onPick={(name) => {
              const found = lines.find(({ table: of }) => of.name === name);
              if (found) add(newLines(draft, form, found), `Send ${names.tableInText(name)} with ${form.title}`);
            }}
          >
            <option value="">+ lines that are sent with it …</option>
            {lines.map(({ table: of }) => (
              <option key={of.name} value={of.name}>
                {names.table(of.name)}
              </option>
            ))}
          </Select>
        )}
      </span>
    </div>
  );
}

function PartEdit({
  part,
  form,
  table,
  isFirst,
  isLast,
  onChange,
  onMove,
  onRemove,
}: {
  part: FormPart;
  form: Form;
  table: Table;
  isFirst: boolean;
  isLast: boolean;
  onChange: (label: string, recipe: (part: FormPart) => void) => Promise<string | null>;
  onMove: (by: 1 | -1) => void;
  onRemove: () => void;
}) {
  const names = useNames();
  const [open, setOpen] = useState(false);
  const called = partWords(names, form, part);
  return (
    <li aria-label={called} className="grid gap-2 border-b border-line py-1.5 last:border-0">
      <span className="flex flex-wrap items-center gap-2">
        <span className="min-w-40">
          {called}
          {(part.when ?? part.ofRecord) && <span className="text-sm text-soft"> · at times</span>}
        </span>
        {part.kind === 'input' && (
          <label className="inline-flex min-h-6 items-center gap-1.5 text-sm">
            <input
              type="checkbox"
              checked={part.required === true}
              onChange={(event) => {
                const must = event.target.checked;
                void onChange(`Set whether ${called} must be given`, (next) => {
                  if (must) (next as FormInput).required = true;
                  else delete (next as FormInput).required;
                });
              }}
            />{' '}
            must be given
          </label>
        )}
        <span className="ml-auto flex gap-1">
          <Button small weight="quiet" aria-expanded={open} onClick={() => setOpen(!open)}>
            {open ? 'Close' : 'Arrange'}
            <span className="sr-only"> {called}</span>
          </Button>
          <Button small weight="quiet" aria-label={`Move ${called} up`} disabled={isFirst} onClick={() => onMove(-1)}>
            <ArrowUp size={15} aria-hidden />
          </Button>
          <Button small weight="quiet" aria-label={`Move ${called} down`} disabled={isLast} onClick={() => onMove(1)}>
            <ArrowDown size={15} aria-hidden />
          </Button>
          <Button small weight="quiet" onClick={onRemove}>
            Take out<span className="sr-only"> {called}</span>
          </Button>
        </span>
      </span>
      {(open || part.kind === 'words') && (
        <div className="grid gap-2 pl-3">
          {part.kind === 'words' ? (
            <textarea
              className="field max-w-160"
              rows={2}
              aria-label="Words, in Markdown"
              key={part.text}
              defaultValue={part.text}
              maxLength={5000}
              onBlur={(event) => {
                const typed = event.target.value.trim();
                if (typed && typed !== part.text)
                  void onChange('Write words', (next) => {
                    if (next.kind === 'words') next.text = typed;
                  });
              }}
            />
          ) : (
            <>
              {part.kind !== 'input' && (
                <LabelEdit
                  part={part}
                  called={called}
                  own={partWords(names, form, { ...part, label: undefined })}
                  onChange={onChange}
                />
              )}
              {part.kind === 'lines' && (
                <LinesEdit
                  part={part}
                  onChange={(label, recipe) => void onChange(label, (next) => recipe(next as FormLines))}
                />
              )}
              {part.kind === 'input' && (
                <InputEdit part={part} form={form} table={table} called={called} onChange={onChange} />
              )}
            </>
          )}
          {open && (
            <AtTimes
              form={form}
              table={table}
              called={called}
              times={part}
              onChange={(label, recipe) => onChange(label, recipe)}
            />
          )}
        </div>
      )}
    </li>
  );
}

/** What a fact or lines are called in this form. */
function LabelEdit({
  part,
  called,
  own,
  onChange,
}: {
  part: FormFact | FormLines;
  called: string;
  own: string;
  onChange: (label: string, recipe: (part: FormPart) => void) => Promise<string | null>;
}) {
  return (
    <input
      className="field w-56"
      aria-label={`What ${own} is called here`}
      key={called}
      defaultValue={called}
      maxLength={80}
      onBlur={(event) => {
        const typed = event.target.value.trim();
        if (typed === called) return;
        void onChange(`Call ${own} ${typed || own}`, (next) => {
          if (typed === '' || typed === own) delete (next as typeof part).label;
          else (next as typeof part).label = typed;
        });
      }}
    />
  );
}

function InputEdit({
  part,
  form,
  table,
  called,
  onChange,
}: {
  part: FormInput;
  form: Form;
  table: Table;
  called: string;
  onChange: (label: string, recipe: (part: FormPart) => void) => Promise<string | null>;
}) {
  const names = useNames();
  const own = names.column(table.name, part.column);
  const column = findColumn(table, part.column);
  const set = (label: string, key: 'label' | 'hint', typed: string) =>
    void onChange(label, (next) => {
      if (typed) (next as FormInput)[key] = typed;
      else delete (next as FormInput)[key];
    });
  return (
    <span className="flex flex-wrap items-center gap-2">
      <input
        className="field w-56"
        aria-label={`What ${own} is called here`}
        key={`label ${called}`}
        defaultValue={called}
        maxLength={120}
        onBlur={(event) => {
          const typed = event.target.value.trim();
          if (typed !== called) set(`Call ${own} ${typed}`, 'label', typed === own ? '' : typed);
        }}
      />
      <input
        className="field w-72"
        aria-label={`What is said below ${own}`}
        placeholder="words below it"
        key={`hint ${part.hint ?? ''}`}
        defaultValue={part.hint ?? ''}
        maxLength={300}
        onBlur={(event) => {
          const typed = event.target.value.trim();
          if (typed !== (part.hint ?? '')) set(`Say what ${own} is for`, 'hint', typed);
        }}
      />
      <label className="inline-flex min-h-6 items-center gap-1.5 text-sm">
        <input
          type="checkbox"
          checked={part.signed === true}
          onChange={(event) => {
            const given = event.target.checked;
            void onChange(`Set where ${called} comes from`, (next) => {
              const input = next as FormInput;
              if (given) input.signed = true;
              else delete input.signed;
              if (given) delete input.first;
            });
          }}
        />{' '}
        from a link alone
      </label>
      {!form.changes && column && !part.signed && (
        <FirstValue part={part} form={form} table={table} column={column} called={called} onChange={onChange} />
      )}
    </span>
  );
}
