import { stewardCalled } from '../../../core/definition/steward-words';
import { useState, type FormEvent, type ReactNode } from 'react';
import { useMutation } from '@tanstack/react-query';
import { columnLabel } from '../../../core/definition/definition';
import { findColumn, findTable, isClosed, isIdentifier, plainLabel, type Column } from '../../../core/table/catalogue';
import { fromPlain, plainText } from '../../../core/table/plain-text';
import type { ViewRecord, WriteExplanation } from '../../client/access';
import { allRecords, whyAt } from '../../client/bench';
import { problemText } from '../../client/http';
import { Button } from '../../ui/Button';
import { Cell } from '../../records/Cell';
import { ColumnInput } from '../../records/ColumnInput';
import { Field } from '../../ui/Field';
import { Notice } from '../../ui/Notice';
import { inputColumn } from './input-column';
import { useBench, useSeenPerson } from './bench-context';
import { Line, RowsLines } from './WhyCard';
import { Select } from '../../ui/Select';

type What = 'edit' | 'new' | 'delete';

/**
 * Tries a write as the person in Seen by: it is run and taken back, and its outcome told. And asks why any record is,
 * or isn't, in their view.
 */
export function Trying({
  table,
  records,
  onWhy,
}: {
  table: string;
  records: ViewRecord[];
  onWhy: (id: string) => void;
}) {
  const { catalogue } = useBench();
  const [what, setWhat] = useState<What | 'why' | null>(null);
  const [id, setId] = useState('');
  const known = catalogue.tables.find((each) => each.name === table);
  if (!known || known.key.length === 0) return null;
  // The first record is meant until another is named; it stays the same although the list beside it changes.
  const open = (next: What | 'why') => {
    setWhat(what === next ? null : next);
    if (id === '') setId(records[0]?.id ?? '');
  };
  const record = id;
  const ask = (event: FormEvent) => {
    event.preventDefault();
    if (record !== '') onWhy(record);
  };
  const recordBox = (
    <label className="flex items-center gap-2 text-sm">
      Record{' '}
      <input className="field w-32" aria-label="Record" value={id} onChange={(event) => setId(event.target.value)} />
      <span className="text-soft">by its id, in view or not</span>
    </label>
  );
  return (
    <div className="grid gap-2 border-t border-line px-3 py-2">
      <div className="flex flex-wrap gap-1.5">
        {(['edit', 'new', 'delete'] as const).map((each) => (
          <Button key={each} small aria-expanded={what === each} onClick={() => open(each)}>
            {each === 'edit' ? 'Try an edit' : each === 'new' ? 'Try a new record' : 'Try to delete'}
          </Button>
        ))}
        <Button small aria-expanded={what === 'why'} onClick={() => open('why')}>
          Why is it (not) there?
        </Button>
      </div>
      {what === 'why' && (
        <form className="grid gap-2" aria-label="Why is it there" onSubmit={ask}>
          {recordBox}
          <div>
            <Button small type="submit" weight="main" disabled={record === ''}>
              Tell why
            </Button>
          </div>
        </form>
      )}
      {what !== null && what !== 'why' && (
        <Attempt
          key={what}
          what={what}
          table={table}
          columns={known.columns.filter(
            (column) => !column.automatic && column.type !== 'other' && !isClosed(known, column.name),
          )}
          id={record}
          record={records.find((each) => each.id === record)}
          recordBox={what === 'new' ? null : recordBox}
        />
      )}
    </div>
  );
}

/** One write, with what is to be written: it stays while another record is named. */
function Attempt({
  what,
  table,
  columns,
  id,
  record,
  recordBox,
}: {
  what: What;
  table: string;
  columns: Column[];
  id: string;
  record: ViewRecord | undefined;
  recordBox: ReactNode;
}) {
  const { slug, draft, catalogue } = useBench();
  const person = useSeenPerson();
  const known = findTable(catalogue, table)!;
  const labelOf = (name: string) => columnLabel(draft, table, name, plainLabel);
  const [values, setValues] = useState<Record<string, string>>({});
  const why = whyAt(slug, person!.id);
  const sent = Object.fromEntries(
    Object.entries(values).map(([name, text]) => [
      name,
      fromPlain({ ...columns.find((column) => column.name === name)!, nullable: true }, text),
    ]),
  );
  const attempt = useMutation({
    mutationFn: () =>
      what === 'delete'
        ? why('POST /why-delete/:table/:id', { params: { table, id } })
        : what === 'new'
          ? why('POST /why/:table', { params: { table }, body: { values: sent } })
          : why('POST /why/:table/:id', { params: { table, id }, body: { values: sent } }),
  });
  const free = columns.filter((column) => !(column.name in values));
  const done =
    what === 'new' ? 'It would be made.' : what === 'delete' ? 'It would be deleted.' : 'It would be changed.';
  const outcome = attempt.data?.outcome;
  return (
    <form
      className="grid gap-2"
      onSubmit={(event) => {
        event.preventDefault();
        attempt.mutate();
      }}
      aria-label={what === 'new' ? 'Try a new record' : what === 'edit' ? 'Try an edit' : 'Try to delete'}
    >
      {recordBox}
      {what !== 'delete' &&
        Object.entries(values).map(([name, text]) => {
          const column = columns.find((each) => each.name === name)!;
          const input = inputColumn(draft, known, column);
          return (
            <Field key={name} label={input.label} beside>
              {(ids) => (
                <ColumnInput
                  column={input}
                  value={text}
                  onChange={(next) => setValues((before) => ({ ...before, [name]: next }))}
                  place={{ base: allRecords(slug), table, id: null }}
                  inputProps={ids}
                />
              )}
            </Field>
          );
        })}
      {what !== 'delete' && free.length > 0 && (
        <Select
          className="w-auto"
          aria-label="Set a column"
          value=""
          onPick={(name) => {
            const now = record?.values[name];
            if (name) setValues({ ...values, [name]: plainText(now) });
          }}
        >
          <option value="">set a column …</option>
          {free.map((column) => (
            <option key={column.name} value={column.name}>
              {labelOf(column.name)}
            </option>
          ))}
        </Select>
      )}
      <div>
        <Button
          type="submit"
          small
          weight="main"
          disabled={
            attempt.isPending ||
            (what !== 'new' && id === '') ||
            (what !== 'delete' && Object.keys(values).length === 0)
          }
        >
          Try it as {person!.name}
        </Button>
      </div>
      {attempt.isError && <Notice kind="fault">{problemText(attempt.error)}</Notice>}
      {attempt.data && outcome && (
        <div className="grid gap-1" data-testid="tried">
          <Notice kind={outcome.allowed ? 'say' : 'warn'}>
            {outcome.allowed ? done : outcome.words}{' '}
            {outcome.allowed ? 'It was tried and taken back; nothing has changed.' : 'Nothing has changed.'}
            {Object.entries(outcome.fields).map(([name, words]) => (
              <span key={name} className="block">
                {labelOf(name)}: {words}
              </span>
            ))}
          </Notice>
          {outcome.allowed && what !== 'delete' && (
            <WouldBe record={outcome.record} table={table} name={person!.name} />
          )}
          {!outcome.allowed && <WhyWrite table={table} why={attempt.data} />}
        </div>
      )}
    </form>
  );
}

/** The record as the person would get it, stamps and all. */
function WouldBe({ record, table, name }: { record: ViewRecord | null; table: string; name: string }) {
  const { catalogue, draft } = useBench();
  if (record === null) return <p className="text-sm text-soft">{name} would not see it afterwards.</p>;
  const known = findTable(catalogue, table)!;
  return (
    <dl className="grid grid-cols-[8rem_1fr] gap-x-2 text-sm" aria-label="The record that would be">
      {Object.entries(record.values).map(([path, value]) => {
        const column = findColumn(known, path);
        return [
          <dt key={`${path} is`} className="truncate text-soft">
            {column ? columnLabel(draft, table, column.name, plainLabel) : path}
          </dt>,
          <dd key={path} className="min-w-0 truncate">
            <Cell
              type={column?.type ?? 'text'}
              notes={{ identifies: column && isIdentifier(known, column) }}
              value={value}
              masked={record.masked.includes(path)}
            />
          </dd>,
        ];
      })}
    </dl>
  );
}

/** For each role of the person: which of the columns it may fill, and its keep-in rule on what would come of it. */
function WhyWrite({ table, why }: { table: string; why: WriteExplanation }) {
  const { draft } = useBench();
  return (
    <ul className="grid gap-2 text-sm">
      {why.before && !why.before.inView && <Line outcome={false}>the record is not in their view</Line>}
      {why.before?.inView &&
        why.before.roles.map(
          (role) =>
            role.edit && (
              <li key={role.role} className="grid gap-1">
                <strong>
                  {draft.roles.find((each) => each.id === role.role)?.name ?? role.role}: may edit the record
                </strong>
                <RowsLines table={table} rows={role.edit} nothing="every row" />
              </li>
            ),
        )}
      {why.relations
        .filter((relation) => !relation.isSeen)
        .map((relation) => (
          <Line key={relation.column} outcome={false}>
            {columnLabel(draft, table, relation.column, plainLabel)}:{' '}
            {relation.isThere
              ? `the record ${String(relation.value)} of ${relation.table} is there, but not in their view`
              : `there is no record ${String(relation.value)} in ${relation.table}`}
          </Line>
        ))}
      {why.after.length === 0 && why.before?.inView !== false && Object.keys(why.outcome.fields).length === 0 && (
        <Line outcome={false}>no role lets them do this here</Line>
      )}
      {why.after.map((role) => (
        <li key={`${role.role} ${role.steward ?? ''}`} className="grid gap-1">
          <strong>
            {role.steward === undefined
              ? (draft.roles.find((each) => each.id === role.role)?.name ?? role.role)
              : stewardCalled(draft, role.steward)}
            : what would come of it
          </strong>
          {Object.entries(role.mayFill).map(([column, may]) => (
            <Line key={column} outcome={may}>
              {columnLabel(draft, table, column, plainLabel)} {may ? 'may be filled' : 'is not theirs to fill'}
            </Line>
          ))}
          <RowsLines table={table} rows={role.keepIn} nothing="nothing more must hold" />
        </li>
      ))}
    </ul>
  );
}
