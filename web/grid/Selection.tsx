import { useState } from 'react';
import { type TableInfo, type ViewRecord } from '../client/grid';
import { wholeRecords } from '../client/whole-records';
import { problemText } from '../client/http';
import { Button } from '../ui/Button';
import { fromPlain } from '../../core/table/plain-text';
import { ColumnInput } from '../records/ColumnInput';
import { Field } from '../ui/Field';
import { Popover } from '../ui/Popover';
import { Question } from '../ui/Question';
import { records, type useWrites } from './use-writes';
import { Select } from '../ui/Select';

interface SelectionProps {
  base: string;
  info: TableInfo;
  picked: ReadonlySet<string>;
  total: number;
  data: ViewRecord[];
  writes: ReturnType<typeof useWrites>;
  onPick: (ids: ReadonlySet<string>) => void;
  /** The ids of all records that the grid's question finds. */
  collect: () => Promise<string[]>;
  /** Gives the focus back to the grid when a dialog of the selection has closed. */
  onClosed: () => void;
}

/** What can be done with the records that are selected. */
export function Selection({ base, info, picked, total, data, writes, onPick, collect, onClosed }: SelectionProps) {
  const [busy, setBusy] = useState<string | null>(null);
  const [asking, setAsking] = useState(false);
  const during = async (what: string, work: () => Promise<void>) => {
    setBusy(what);
    try {
      await work();
    } catch (error) {
      writes.say(problemText(error), true);
    } finally {
      setBusy(null);
    }
  };
  const noun = (count: number) => `${count.toLocaleString()} ${count === 1 ? 'record' : 'records'} of ${info.label}`;
  const whole = () => wholeRecords(base, info, [...picked]);
  const remove = () =>
    during('Deleting', async () => {
      const found = await whole();
      const canRestore =
        info.fills !== null &&
        found.every((record) => Object.keys(record.values).length > 0) &&
        info.columns.every((column) => !column.veiled);
      await writes.remove(found, canRestore, (done) =>
        setBusy(`Deleting ${done.toLocaleString()} of ${found.length.toLocaleString()}`),
      );
      onPick(new Set());
    });
  const set = (path: string, text: string) =>
    during('Setting the value', async () => {
      const column = info.columns.find((each) => each.path === path)!;
      const byId = new Map(data.map((record) => [record.id, record]));
      const missing = [...picked].some((id) => !byId.has(id) || !(path in byId.get(id)!.values));
      const found = missing ? new Map((await whole()).map((record) => [record.id, record])) : byId;
      await writes.change(
        [...picked].map((id) => ({
          id,
          path,
          from: found.get(id)?.values[path],
          to: fromPlain(column, text),
          typed: text,
        })),
        `set ${column.label} of ${records(picked.size)}`,
      );
    });
  return (
    <div
      role="region"
      aria-label="Selected records"
      className="flex flex-wrap items-center gap-2 border-t border-line bg-lichen-wash px-3 py-1.5"
    >
      <span className="font-semibold">{records(picked.size)} selected</span>
      {picked.size < total && (
        <Button
          small
          weight="quiet"
          disabled={busy !== null}
          onClick={() =>
            void during('Selecting', async () => {
              const ids = await collect();
              onPick(new Set(ids));
              if (ids.length < total)
                writes.say(`The first ${records(ids.length)} are selected; more at once would take too long.`);
            })
          }
        >
          Select all {total.toLocaleString()}
        </Button>
      )}
      {info.changes.length > 0 && (
        <SetValue
          base={base}
          info={info}
          count={picked.size}
          disabled={busy !== null}
          onSet={(path, text) => void set(path, text)}
          onClosed={onClosed}
        />
      )}
      {info.removes && (
        <Question
          open={asking}
          onOpenChange={setAsking}
          trigger={
            <Button small weight="danger" disabled={busy !== null}>
              Delete {noun(picked.size)}
            </Button>
          }
          onClosed={onClosed}
          title={`Delete ${noun(picked.size)}?`}
          says={
            'It can be undone with Ctrl+Z as long as this window is open. Records that others belong to stay, and ' +
            'are named.'
          }
          keep="Keep them"
          go={`Delete ${records(picked.size)}`}
          onGo={() => void remove()}
        />
      )}
      <Button small weight="quiet" disabled={busy !== null} onClick={() => onPick(new Set())}>
        Select none
      </Button>
      {busy && (
        <span role="status" className="text-soft">
          {busy} …
        </span>
      )}
    </div>
  );
}

function SetValue({
  base,
  info,
  count,
  disabled,
  onSet,
  onClosed,
}: {
  base: string;
  info: TableInfo;
  count: number;
  disabled: boolean;
  onSet: (path: string, text: string) => void;
  onClosed: () => void;
}) {
  const [open, setOpen] = useState(false);
  const [path, setPath] = useState(info.changes[0]!);
  const [text, setText] = useState('');
  const column = info.columns.find((each) => each.path === path)!;
  return (
    <Popover
      label="Set a value"
      className="w-72"
      open={open}
      onOpenChange={setOpen}
      onClosed={onClosed}
      trigger={
        <Button small disabled={disabled}>
          Set a value …
        </Button>
      }
    >
      <form
        className="grid gap-3"
        onSubmit={(event) => {
          event.preventDefault();
          setOpen(false);
          onSet(path, text);
        }}
      >
        <Field label="Column">
          {(ids) => (
            <Select
              {...ids}
              value={path}
              onPick={(picked) => {
                setPath(picked);
                setText('');
              }}
            >
              {info.changes.map((each) => (
                <option key={each} value={each}>
                  {info.columns.find((known) => known.path === each)?.label ?? each}
                </option>
              ))}
            </Select>
          )}
        </Field>
        <Field label="Value" hint="With nothing there it is emptied.">
          {(ids) => (
            <ColumnInput
              key={path}
              column={column}
              value={text}
              onChange={setText}
              place={{ base, table: info.table, id: null }}
              inputProps={ids}
            />
          )}
        </Field>
        <Button type="submit" weight="main">
          Set it in {records(count)}
        </Button>
      </form>
    </Popover>
  );
}
