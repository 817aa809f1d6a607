import { useState } from 'react';
import type { Action, CallStep, StepValue } from '../../../core/definition/action';
import { findColumn, isClosed, type Table } from '../../../core/table/catalogue';
import { useTryAddress } from '../../client/calls';
import { problemText } from '../../client/http';
import { Button } from '../../ui/Button';
import { Dialog } from '../../ui/Dialog';
import { Notice } from '../../ui/Notice';
import { Select } from '../../ui/Select';
import { useBench } from '../bench/bench-context';
import { useNames } from '../bench/names';
import { addAddress } from '../calls/address-edits';
import { AddressForm } from '../calls/AddressForm';
import { writtenColumns } from './action-edits';
import { SentValueChoice } from './SentValueChoice';

type ChangeCall = (label: string, recipe: (step: CallStep, action: Action) => void) => void;

/** Lets an action call an address: one that is known, or another one. */
export function AddCall({ action }: { action: Action }) {
  const { draft, edit } = useBench();
  const [making, setMaking] = useState(false);
  const known = draft.addresses ?? [];
  const call = (name: string, addressOf: (next: typeof draft) => string) =>
    void edit(`Let ${action.name} call ${name}`, (next) => {
      const address = addressOf(next);
      next.actions!.find(({ id }) => id === action.id)!.steps.push({ kind: 'call', address, values: {} });
    });
  const dialog = (
    <Dialog title="What shall be called?" open={making} onOpenChange={setMaking}>
      <AddressForm
        word="Call it"
        onMake={(name, url) => {
          call(name, (next) => addAddress(next, name, url));
          setMaking(false);
        }}
      />
    </Dialog>
  );
  if (known.length === 0)
    return (
      <>
        <Button small onClick={() => setMaking(true)}>
          + call a service
        </Button>
        {dialog}
      </>
    );
  return (
    <>
      <Select
        aria-label="Let it call"
        className="w-auto"
        value=""
        onPick={(picked) => {
          if (picked === '+') setMaking(true);
          else if (picked) call(known.find(({ id }) => id === picked)!.name, () => picked);
        }}
      >
        <option value="">+ call …</option>
        {known.map(({ id, name }) => (
          <option key={id} value={id}>
            {name}
          </option>
        ))}
        <option value="+">another address …</option>
      </Select>
      {dialog}
    </>
  );
}

/** What a call tells, and where what it is answered goes. */
export function CallEdit({
  action,
  step,
  table,
  onChange,
}: {
  action: Action;
  step: CallStep;
  table: Table;
  onChange: ChangeCall;
}) {
  const { draft } = useBench();
  const names = useNames();
  const open = table.columns.filter(({ name, type }) => type !== 'other' && !isClosed(table, name));
  const untold = open.filter(({ name }) => !Object.hasOwn(step.values, name));
  const states = (draft.lifecycles ?? []).flatMap((each) => (each.table === table.name ? [each.column] : []));
  const unanswered = writtenColumns(table, states, false).filter(
    ({ name }) => !Object.hasOwn(step.answers ?? {}, name),
  );
  return (
    <div className="grid gap-3">
      <fieldset className="grid gap-2">
        <legend className="text-sm">It tells</legend>
        {Object.entries(step.values).map(([called, value]) => (
          <Sent key={called} {...{ called, value, action, table, onChange }} taken={Object.keys(step.values)} />
        ))}
        <AddColumn
          label="Tell a column"
          words="+ tell …"
          table={table}
          columns={untold.map(({ name }) => name)}
          onAdd={(name) =>
            onChange(`Let ${action.name} tell ${names.column(table.name, name)}`, (next) => {
              next.values[name] = { kind: 'column', path: [name] };
            })
          }
        />
      </fieldset>
      <fieldset className="grid gap-2">
        <legend className="text-sm">What it is answered goes into</legend>
        {Object.entries(step.answers ?? {}).map(([name, path]) => (
          <Answered key={name} {...{ name, path, table, onChange }} />
        ))}
        <AddColumn
          label="Put what it is answered into a column"
          words="+ put into …"
          table={table}
          columns={unanswered.map(({ name }) => name)}
          onAdd={(name) =>
            onChange(`Put what is answered into ${names.column(table.name, name)}`, (next) => {
              next.answers = { ...next.answers, [name]: name };
            })
          }
        />
      </fieldset>
      <TryCall step={step} table={table} />
    </div>
  );
}

function AddColumn({
  label,
  words,
  table,
  columns,
  onAdd,
}: {
  label: string;
  words: string;
  table: Table;
  columns: string[];
  onAdd: (name: string) => void;
}) {
  const names = useNames();
  return (
    <Select
      aria-label={label}
      className="w-auto justify-self-start"
      value=""
      onPick={(picked) => {
        if (picked) onAdd(picked);
      }}
    >
      <option value="">{words}</option>
      {columns.map((name) => (
        <option key={name} value={name}>
          {names.column(table.name, name)}
        </option>
      ))}
    </Select>
  );
}

function Sent({
  called,
  value,
  action,
  table,
  taken,
  onChange,
}: {
  called: string;
  value: StepValue;
  action: Action;
  table: Table;
  taken: string[];
  onChange: ChangeCall;
}) {
  return (
    <span className="flex flex-wrap items-center gap-2">
      <input
        className="field w-44 font-mono text-sm"
        aria-label={`What ${called} is called there`}
        key={called}
        defaultValue={called}
        maxLength={60}
        onBlur={(event) => {
          const typed = event.target.value.trim();
          const isFree = /^[\w-]+$/.test(typed) && !taken.includes(typed);
          if (!isFree) event.target.value = called;
          else
            onChange(`Call what is told ${typed}`, (next) => {
              // In its place among the others.
              next.values = Object.fromEntries(
                Object.entries(next.values).map(([name, each]) => [name === called ? typed : name, each]),
              );
            });
        }}
      />
      <span aria-hidden>:</span>
      <SentValueChoice
        action={action}
        table={table}
        called={called}
        value={value}
        onChange={(chosen) =>
          onChange(`Set what is told as ${called}`, (next) => {
            next.values[called] = chosen;
          })
        }
      />
      <Button
        small
        weight="quiet"
        onClick={() =>
          onChange(`Don't tell ${called}`, (next) => {
            delete next.values[called];
          })
        }
      >
        Take out<span className="sr-only"> {called}</span>
      </Button>
    </span>
  );
}

function Answered({ name, path, table, onChange }: { name: string; path: string; table: Table; onChange: ChangeCall }) {
  const names = useNames();
  const label = findColumn(table, name) ? names.column(table.name, name) : 'a column that is gone';
  return (
    <span className="flex flex-wrap items-center gap-2">
      <span className="min-w-32">{label}</span>
      <span aria-hidden>←</span>
      <input
        className="field w-56 font-mono text-sm"
        aria-label={`What of the answer goes into ${label}`}
        key={path}
        defaultValue={path}
        maxLength={300}
        placeholder="receipt.number"
        onBlur={(event) => {
          const typed = event.target.value.trim();
          if (!/^[\w-]+(\.[\w-]+)*$/.test(typed)) event.target.value = path;
          else if (typed !== path)
            onChange(`Set what goes into ${label}`, (next) => {
              next.answers = { ...next.answers, [name]: typed };
            });
        }}
      />
      <Button
        small
        weight="quiet"
        onClick={() =>
          onChange(`Leave ${label} as it is`, (next) => {
            delete next.answers![name];
            if (Object.keys(next.answers!).length === 0) delete next.answers;
          })
        }
      >
        Take out<span className="sr-only"> {label}</span>
      </Button>
    </span>
  );
}

/** Calls the address with something of each type in the place of what would be told. */
function TryCall({ step, table }: { step: CallStep; table: Table }) {
  const { slug, draft } = useBench();
  const trying = useTryAddress(slug, step.address);
  const to = draft.addresses?.find(({ id }) => id === step.address);
  if (!to) return <Notice kind="fault">The address that it calls is gone.</Notice>;
  const sample = Object.fromEntries(
    Object.entries(step.values).map(([called, value]) => [
      called,
      value.kind === 'column' ? sampleOf(table, value.path.at(-1)!) : `(${called})`,
    ]),
  );
  return (
    <div className="grid gap-2">
      <Button small className="justify-self-start" disabled={trying.isPending} onClick={() => trying.mutate(sample)}>
        {trying.isPending ? 'Waiting for its answer …' : 'Try it with a sample'}
      </Button>
      {trying.isError && <Notice kind="fault">{problemText(trying.error)}</Notice>}
      {trying.data && (
        <Notice kind={trying.data.fine ? 'say' : 'fault'}>
          <span className="break-words whitespace-pre-wrap">{trying.data.words}</span>
        </Notice>
      )}
    </div>
  );
}

function sampleOf(table: Table, name: string): unknown {
  const column = findColumn(table, name);
  switch (column?.type) {
    case 'whole number':
    case 'decimal':
    case 'number':
      return '1';
    case 'yes/no':
      return true;
    case 'date':
      return '2026-11-24';
    case 'date and time':
      return '2026-11-24 09:30:00';
    default:
      return column?.choices?.[0] ?? `(${name})`;
  }
}
