import { ArrowDown, ArrowUp } from 'lucide-react';
import { useState } from 'react';
import type { Form, FormInput, FormPart } from '../../../core/definition/form';
import { findColumn, type Table } from '../../../core/table/catalogue';
import { Button } from '../../ui/Button';
import { Select } from '../../ui/Select';
import { useNames } from '../bench/names';
import type { ChangeForm } from './form-edits';
import { movePart, unasked } from './form-edits';
import { ShownWhen } from './ShownWhen';

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
  const free = unasked(form, columns);
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
    </div>
  );
}

function PartEdit({
  part,
  table,
  isFirst,
  isLast,
  onChange,
  onMove,
  onRemove,
}: {
  part: FormPart;
  table: Table;
  isFirst: boolean;
  isLast: boolean;
  onChange: (label: string, recipe: (part: FormPart) => void) => Promise<string | null>;
  onMove: (by: 1 | -1) => void;
  onRemove: () => void;
}) {
  const names = useNames();
  const [open, setOpen] = useState(false);
  const called = part.kind === 'words' ? 'Words' : (part.label ?? names.column(table.name, part.column));
  return (
    <li aria-label={called} className="grid gap-2 border-b border-line py-1.5 last:border-0">
      <span className="flex flex-wrap items-center gap-2">
        <span className="min-w-40">
          {called}
          {part.when && <span className="text-sm text-soft"> · at times</span>}
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
            <InputEdit part={part} table={table} called={called} onChange={onChange} />
          )}
          {open && (
            <ShownWhen
              table={table}
              name={`When ${called} is shown`}
              where={part.when}
              always="Always shown."
              onChange={(where) =>
                onChange(`Set when ${called} is shown`, (next) => {
                  if (where) next.when = where;
                  else delete next.when;
                })
              }
            />
          )}
        </div>
      )}
    </li>
  );
}

function InputEdit({
  part,
  table,
  called,
  onChange,
}: {
  part: FormInput;
  table: Table;
  called: string;
  onChange: (label: string, recipe: (part: FormPart) => void) => Promise<string | null>;
}) {
  const names = useNames();
  const own = names.column(table.name, part.column);
  const type = findColumn(table, part.column)?.type;
  const isDay = type === 'date' || type === 'date and time';
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
      {isDay && (
        <Select
          aria-label={`What stands at first in ${own}`}
          className="w-auto"
          value={part.first ? 'clock' : ''}
          onPick={(picked) =>
            void onChange(`Set what stands in ${own} at first`, (next) => {
              if (picked === 'clock')
                (next as FormInput).first = { kind: 'clock', what: type === 'date' ? 'today' : 'now' };
              else delete (next as FormInput).first;
            })
          }
        >
          <option value="">empty at first</option>
          <option value="clock">{type === 'date' ? 'today' : 'now'}</option>
        </Select>
      )}
    </span>
  );
}
