import { counted } from '../../../core/text/counted';
import { useState } from 'react';
import type { Column, Table } from '../../../core/table/catalogue';
import { stampColumns, type DrawnColumn, type DrawnType } from '../../../core/table/drawn';
import { problemText, ServerProblem } from '../../client/http';
import { useShaping, useUses, type TypeChange } from '../../client/shape';
import { Button } from '../../ui/Button';
import { Dialog } from '../../ui/Dialog';
import { Field } from '../../ui/Field';
import { Notice, Skeleton } from '../../ui/Notice';
import { useBench } from '../bench/bench-context';
import { ColumnFields, newColumn, tidy } from './ColumnFields';

const fieldsOf = (error: unknown) =>
  error instanceof ServerProblem ? ((error.body.fields ?? {}) as Record<string, string>) : {};

/** One more column. */
export function AddColumn({ table }: { table: Table }) {
  const { slug, catalogue } = useBench();
  const [open, setOpen] = useState(false);
  const [column, setColumn] = useState(newColumn());
  const [colours, setColours] = useState<Record<string, number>>({});
  const add = useShaping(slug, 'POST /shape/tables/:table/columns');
  const submit = () =>
    add.mutate(
      { params: { table: table.name }, body: { column: tidy(column), colours } },
      {
        onSuccess: () => {
          setOpen(false);
          setColumn(newColumn());
          setColours({});
        },
      },
    );
  return (
    <Dialog
      wide
      title={`Another column in ${table.name}`}
      open={open}
      onOpenChange={setOpen}
      trigger={<Button small>+ column</Button>}
    >
      <form
        className="grid gap-4"
        onSubmit={(event) => {
          event.preventDefault();
          submit();
        }}
      >
        <ColumnFields
          column={column}
          colours={colours}
          tables={catalogue.tables
            .filter((each) => each.stored === undefined && each.key.length === 1)
            .map((each) => each.name)}
          faults={fieldsOf(add.error)}
          onChange={(change) => setColumn({ ...column, ...change })}
          onColours={setColours}
        />
        {add.isError && Object.keys(fieldsOf(add.error)).length === 0 && (
          <Notice kind="fault">{problemText(add.error)}</Notice>
        )}
        <div>
          <Button type="submit" weight="main" disabled={add.isPending || column.name === ''}>
            Add {column.name || 'it'}
          </Button>
        </div>
      </form>
    </Dialog>
  );
}

/** What of the portals would notice. */
function Uses({ table, column }: { table: string; column?: string }) {
  const { slug } = useBench();
  const uses = useUses(slug, table, column);
  if (uses.isPending) return <Skeleton lines={2} />;
  if (uses.isError) return <Notice kind="fault">{problemText(uses.error)}</Notice>;
  if (uses.data.uses.length === 0) return <p className="text-soft">No rule and no page uses it.</p>;
  return (
    <div>
      {uses.data.uses.map((each) => (
        <p key={each.portal}>
          <strong>{each.portal}</strong> uses it in {each.uses.join(', ')}.
        </p>
      ))}
    </div>
  );
}

/** A table's own changes: its name, and its end. */
export function ShapeTable({
  table,
  onGone,
  onRenamed,
}: {
  table: Table;
  onGone: () => void;
  onRenamed: (to: string) => void;
}) {
  const { slug } = useBench();
  const [open, setOpen] = useState(false);
  const [to, setTo] = useState(table.name);
  const rename = useShaping(slug, 'POST /shape/tables/:table/rename');
  const remove = useShaping(slug, 'DELETE /shape/tables/:table');
  const error = remove.error ?? rename.error;
  const isBusy = rename.isPending || remove.isPending;
  return (
    <Dialog wide title={table.name} open={open} onOpenChange={setOpen} trigger={<Button small>Change</Button>}>
      <form
        className="flex items-end gap-3"
        onSubmit={(event) => {
          event.preventDefault();
          rename.mutate(
            { params: { table: table.name }, body: { to } },
            {
              onSuccess: () => {
                setOpen(false);
                onRenamed(to);
              },
            },
          );
        }}
      >
        <div className="flex-1">
          <Field label="Name" fault={fieldsOf(error).to}>
            {(ids) => (
              <input className="field font-code" {...ids} value={to} onChange={(event) => setTo(event.target.value)} />
            )}
          </Field>
        </div>
        <Button type="submit" disabled={to === table.name || isBusy}>
          Rename it
        </Button>
      </form>
      <p className="text-sm text-soft">
        Rules, pages and what is published follow a new name; earlier edits of the drafts can't be undone after it.
      </p>
      <Uses table={table.name} />
      {error && !fieldsOf(error).to && <Notice kind="fault">{problemText(error)}</Notice>}
      <div className="flex items-center gap-3 border-t border-line pt-3">
        <Button
          weight="danger"
          disabled={isBusy}
          onClick={() =>
            remove.mutate(
              { params: { table: table.name } },
              {
                onSuccess: () => {
                  setOpen(false);
                  onGone();
                },
              },
            )
          }
        >
          Delete {table.name}
        </Button>
        <span className="text-sm text-soft">For a day it can be had back.</span>
      </div>
    </Dialog>
  );
}

/** A column's changes: name, type and end. */
export function ShapeColumn({ table, column }: { table: Table; column: Column }) {
  const { slug, draft } = useBench();
  const [open, setOpen] = useState(false);
  const [to, setTo] = useState(column.name);
  const notes = draft.tables[table.name]?.columns?.[column.name];
  const [drawn, setDrawn] = useState<DrawnColumn>(() => drawnOf(column, notes?.kind, notes?.currency));
  const [told, setTold] = useState<TypeChange | null>(null);
  const rename = useShaping(slug, 'POST /shape/tables/:table/columns/:column/rename');
  const remove = useShaping(slug, 'DELETE /shape/tables/:table/columns/:column');
  const change = useShaping(slug, 'POST /shape/tables/:table/columns/:column/type');
  const params = { table: table.name, column: column.name };
  const error = remove.error ?? rename.error;
  const isBusy = rename.isPending || remove.isPending;
  const tell = (apply: boolean) =>
    change.mutate(
      { params, body: { column: tidy(drawn), apply } },
      {
        onSuccess: (answer) => {
          if (apply) setOpen(false);
          else setTold(answer);
        },
      },
    );
  const relates = table.relations.some((relation) => relation.column === column.name);
  const closed =
    table.key.includes(column.name) ||
    relates ||
    column.type === 'other' ||
    column.type === 'time' ||
    column.type === 'number';
  if (Object.values(stampColumns).includes(column.name as 'made_at') && column.hasDefault) return null;
  return (
    <Dialog
      wide
      title={`${table.name}.${column.name}`}
      open={open}
      onOpenChange={setOpen}
      trigger={
        <button type="button" className="text-water underline" aria-label={`Change ${column.name}`}>
          change
        </button>
      }
    >
      <form
        className="flex items-end gap-3"
        onSubmit={(event) => {
          event.preventDefault();
          rename.mutate({ params, body: { to } }, { onSuccess: () => setOpen(false) });
        }}
      >
        <div className="flex-1">
          <Field label="Name" fault={fieldsOf(error).to}>
            {(ids) => (
              <input className="field font-code" {...ids} value={to} onChange={(event) => setTo(event.target.value)} />
            )}
          </Field>
        </div>
        <Button type="submit" disabled={to === column.name || isBusy}>
          Rename it
        </Button>
      </form>
      {!closed && (
        <form
          className="grid gap-3 border-t border-line pt-3"
          onSubmit={(event) => {
            event.preventDefault();
            tell(false);
          }}
        >
          <ColumnFields
            onlyType
            hadInitial={column.hasDefault}
            column={drawn}
            tables={[]}
            faults={{}}
            onChange={(next) => {
              setDrawn({ ...drawn, ...next });
              setTold(null);
            }}
          />
          {fieldsOf(change.error).required && <Notice kind="fault">{fieldsOf(change.error).required}</Notice>}
          {change.isError && !fieldsOf(change.error).required && (
            <Notice kind="fault">{problemText(change.error)}</Notice>
          )}
          {told && (
            <Notice kind={told.lost > 0 ? 'warn' : 'say'}>
              {told.lost === 0
                ? `${told.kept === 1 ? 'The only value fits' : `All ${counted(told.kept, 'value')} fit`}.`
                : `${told.lost.toLocaleString()} of ${(told.kept + told.lost).toLocaleString()} values don't fit ` +
                  'and would be empty:'}
              {told.samples.length > 0 && (
                <ul className="mt-1 list-disc pl-5">
                  {told.samples.map((sample) => (
                    <li key={sample.id}>
                      record {sample.id}, “{sample.value}”: {sample.reason}
                    </li>
                  ))}
                </ul>
              )}
            </Notice>
          )}
          <div className="flex gap-2">
            <Button type="submit" disabled={change.isPending}>
              Look what would be lost
            </Button>
            {told && (
              <Button weight={told.lost > 0 ? 'danger' : 'main'} disabled={change.isPending} onClick={() => tell(true)}>
                {told.lost > 0
                  ? `Change it and lose ${told.lost.toLocaleString()} ${told.lost === 1 ? 'value' : 'values'}`
                  : 'Change it'}
              </Button>
            )}
          </div>
        </form>
      )}
      {error && !fieldsOf(error).to && <Notice kind="fault">{problemText(error)}</Notice>}
      {!table.key.includes(column.name) && (
        <div className="flex items-center gap-3">
          <Button
            weight="danger"
            disabled={isBusy}
            onClick={() => remove.mutate({ params }, { onSuccess: () => setOpen(false) })}
          >
            Delete {column.name}
          </Button>
          <span className="text-sm text-soft">For a day it can be had back.</span>
        </div>
      )}
      {/* Last, since it comes later than the rest and would move what is pressed. */}
      <div className="border-t border-line pt-3">
        <Uses table={table.name} column={column.name} />
      </div>
    </Dialog>
  );
}

function drawnOf(column: Column, kind: DrawnType | undefined, currency: string | undefined): DrawnColumn {
  const type =
    kind ??
    ([
      'text',
      'long text',
      'whole number',
      'decimal',
      'yes/no',
      'date',
      'date and time',
      'one choice',
      'several choices',
    ].includes(column.type)
      ? (column.type as DrawnType)
      : 'text');
  return {
    name: column.name,
    type,
    required: !column.nullable,
    unique: column.unique,
    initial: null,
    ...(type === 'text' ? { maxLength: column.maxLength } : {}),
    ...(type === 'decimal' ? { scale: column.scale } : {}),
    ...(column.choices ? { choices: column.choices } : {}),
    ...(currency ? { currency } : {}),
  };
}
