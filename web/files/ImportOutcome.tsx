import type { ReactNode } from 'react';
import { ArrowRight, Download } from 'lucide-react';
import type { ImportTarget } from '../../core/table/import-target';
import type { Value } from '../../core/table/value';
import type { BringMode, BringOutcome, ImportResult } from '../client/files';
import { Button, buttonLook } from '../ui/Button';
import { cellText } from '../records/Cell';
import { DataTable, Unseen } from '../ui/DataTable';

const records = (count: number) => `${count.toLocaleString()} ${count === 1 ? 'record' : 'records'}`;

export function sentence({ added, changed, same, refused }: BringOutcome): string {
  const parts = [
    added > 0 && `${records(added)} added`,
    changed > 0 && `${records(changed)} changed`,
    same > 0 && `${records(same)} ${same === 1 ? 'was' : 'were'} as in the file already`,
    refused > 0 && `${records(refused)} refused`,
  ].filter((part) => part !== false);
  return parts.length === 0 ? 'nothing to do' : parts.join(', ');
}

export function Looked({
  target,
  result: { outcome, refusedFile },
  refused,
  children,
}: {
  target: ImportTarget;
  result: ImportResult;
  /** The address of what is refused. */
  refused: (file: string) => string;
  children: ReactNode;
}) {
  const { samples } = outcome;
  const columnOf = (name: string) => target.columns.find((each) => each.name === name);
  const labelOf = (name: string) => columnOf(name)?.label ?? name;
  const text = (name: string, value: Value) => {
    const column = columnOf(name)!;
    return cellText(column.type, value, column.identifies) || '–';
  };
  return (
    <section aria-label="What would come of it" className="grid gap-4">
      <dl className="flex flex-wrap gap-x-8 gap-y-2 border-y border-line py-3">
        {(
          [
            ['would be added', outcome.added],
            ['would be changed', outcome.changed],
            ['are so already', outcome.same],
            ['are refused', outcome.refused],
          ] as const
        ).map(([what, count]) => (
          <div key={what} className="flex items-baseline gap-2">
            <dd className={`font-head text-xl ${what === 'are refused' && count > 0 ? 'text-iron' : ''}`}>
              {count.toLocaleString()}
            </dd>
            <dt className="text-soft">{what}</dt>
          </div>
        ))}
      </dl>
      {samples.changed.length > 0 && (
        <Part title="Changed" shown={samples.changed.length} of={outcome.changed}>
          <DataTable
            label="Records that would change"
            head={['Row', 'Record', 'Column', 'Is', <Unseen key="to">becomes</Unseen>, 'Would be']}
            small
          >
            {samples.changed.flatMap((record) =>
              Object.keys(record.after).map((column, i) => (
                <tr key={`${record.line} ${column}`} className="border-b border-line last:border-0">
                  <td className="text-soft">{i === 0 ? record.line : ''}</td>
                  <td>{i === 0 ? String(record.known) : ''}</td>
                  <td className="font-semibold">{labelOf(column)}</td>
                  <td className="max-w-60 truncate">{text(column, record.before[column]!)}</td>
                  <td aria-hidden>
                    <ArrowRight size={14} className="text-soft" />
                  </td>
                  <td className="max-w-60 truncate bg-lichen-wash">{text(column, record.after[column]!)}</td>
                </tr>
              )),
            )}
          </DataTable>
        </Part>
      )}
      {samples.added.length > 0 && (
        <Part title="Added" shown={samples.added.length} of={outcome.added}>
          <DataTable
            label="Records that would be added"
            head={['Row', ...Object.keys(samples.added[0]!.values).map(labelOf)]}
            small
          >
            {samples.added.slice(0, 20).map((record) => (
              <tr key={record.line}>
                <td className="text-soft">{record.line}</td>
                {Object.keys(samples.added[0]!.values).map((column) => (
                  <td key={column} className="max-w-60 truncate">
                    {text(column, record.values[column] ?? null)}
                  </td>
                ))}
              </tr>
            ))}
          </DataTable>
        </Part>
      )}
      {outcome.refused > 0 && (
        <Part
          title="Refused"
          shown={samples.refused.length}
          of={outcome.refused}
          aside={refusedFile && <RefusedLink address={refused(refusedFile)} outcome={outcome} />}
        >
          <RefusedList outcome={outcome} />
        </Part>
      )}
      {children}
    </section>
  );
}

function Part({
  title,
  shown,
  of,
  aside,
  children,
}: {
  title: string;
  shown: number;
  of: number;
  aside?: ReactNode;
  children: ReactNode;
}) {
  return (
    <section aria-label={title} className="grid gap-1">
      <div className="flex flex-wrap items-baseline gap-3">
        <h2 className="text-base">{title}</h2>
        {shown < of && (
          <span className="text-sm text-soft">
            the first {shown} of {of.toLocaleString()}
          </span>
        )}
        <span className="ml-auto">{aside}</span>
      </div>
      <div
        className="max-h-72 overflow-auto rounded-stone border border-line"
        tabIndex={0}
        role="region"
        aria-label={`${title} records`}
      >
        {children}
      </div>
    </section>
  );
}

export function RefusedList({ outcome }: { outcome: BringOutcome }) {
  return (
    <DataTable label="What is refused, cell by cell" head={['Row', 'In the file', 'Value', 'Why']} small>
      {outcome.samples.refused.flatMap((row) =>
        row.cells.map((cell, i) => (
          <tr key={`${row.line} ${cell.header} ${i}`} className="border-b border-line last:border-0">
            <td className="text-soft">{i === 0 ? row.line : ''}</td>
            <td className="font-semibold">{cell.header}</td>
            <td className="max-w-60 truncate">
              {cell.value === '' ? <span className="text-soft">empty</span> : cell.value}
            </td>
            <td>{cell.reason}</td>
          </tr>
        )),
      )}
    </DataTable>
  );
}

export function RefusedLink({ address, outcome }: { address: string; outcome: BringOutcome }) {
  return (
    <a className={buttonLook('plain', true)} href={address} download>
      <Download size={15} aria-hidden />
      The {outcome.refused === 1 ? 'refused record' : `${outcome.refused.toLocaleString()} refused`} as a file
    </a>
  );
}

export function Actions({
  label,
  outcome,
  busy,
  onApply,
  onAgain,
  stale,
}: {
  label: string;
  outcome: BringOutcome;
  busy: boolean;
  onApply: (mode: BringMode) => void;
  onAgain: () => void;
  stale: boolean;
}) {
  const parts = [
    outcome.added > 0 && `add ${outcome.added.toLocaleString()}`,
    outcome.changed > 0 && `change ${outcome.changed.toLocaleString()}`,
  ]
    .filter((part) => part !== false)
    .join(' and ');
  const what = parts.charAt(0).toUpperCase() + parts.slice(1);
  return (
    <div className="flex flex-wrap items-center gap-3">
      {stale && (
        <Button weight="main" disabled={busy} onClick={onAgain}>
          Look again
        </Button>
      )}
      {!stale && parts === '' && <p className="text-soft">There is nothing to bring into {label}.</p>}
      {!stale && parts !== '' && outcome.refused === 0 && (
        <Button weight="main" disabled={busy} onClick={() => onApply('all or nothing')}>
          {what} in {label}
        </Button>
      )}
      {!stale && parts !== '' && outcome.refused > 0 && (
        <>
          <Button weight="main" disabled={busy} onClick={() => onApply('without the refused')}>
            {what}, without the {outcome.refused.toLocaleString()} refused
          </Button>
          <span className="text-soft">Or mend the file and choose it again, so that all of it goes in.</span>
        </>
      )}
    </div>
  );
}
