import { useEffect, useRef, type FormEvent } from 'react';
import { useTableInfo, type TableInfo } from '../client/grid';
import { problemText } from '../client/http';
import type { ColumnInfo } from '../client/portal';
import { usePlace } from '../place/place';
import { Button } from '../ui/Button';
import { Field } from '../ui/Field';
import { InputLabel } from './InputLabel';
import { Notice, Skeleton } from '../ui/Notice';
import { ColumnInput } from './ColumnInput';
import { useNewRecord } from './new-record';

interface NewFormProps {
  table: string;
  /** The columns that come first. */
  sheet: ColumnInfo[];
  /** What is known beforehand, by its column, as text: it is sent along and not asked for. */
  given?: Record<string, string>;
  /** Called with the id of what was made; null where the person doesn't see it. */
  onMade: (id: string | null) => void;
}

/** Makes a record of a table, of the columns that the person may fill. */
export function NewForm(props: NewFormProps) {
  const { base } = usePlace();
  const info = useTableInfo(base, props.table);
  if (info.isPending) return <Skeleton lines={6} />;
  if (info.isError) return <Notice kind="fault">{problemText(info.error)}</Notice>;
  if (info.data.fills === null) return <Notice kind="say">You can&apos;t add anything here.</Notice>;
  return <Filled {...props} all={info.data.columns} columns={inOrder(info.data, props)} />;
}

/**
 * As the sheet has them, a relation where something of its record stands, then the others. The number that the product
 * or the database gives is not asked for.
 */
function inOrder({ columns, fills, key }: TableInfo, { sheet, given = {} }: NewFormProps): ColumnInfo[] {
  const place = ({ path, relation }: ColumnInfo) => {
    const at = sheet.findIndex((each) => each.path === path || (relation && each.path.startsWith(`${relation.name}.`)));
    return at < 0 ? sheet.length : at;
  };
  const isAsked = ({ path, identifies, relation }: ColumnInfo) =>
    fills!.includes(path) && !Object.hasOwn(given, path) && !(identifies && !relation && key.includes(path));
  return columns.filter(isAsked).toSorted((one, other) => place(one) - place(other));
}

function Filled({
  table,
  given = {},
  all,
  columns,
  onMade,
}: NewFormProps & { all: ColumnInfo[]; columns: ColumnInfo[] }) {
  const { base, seenBy } = usePlace();
  const { typed, type, faults, isBusy, send } = useNewRecord({ table, all, columns, given, onMade });
  const form = useRef<HTMLFormElement>(null);
  useEffect(() => {
    if (Object.keys(faults).length > 0) form.current?.querySelector<HTMLElement>('[aria-invalid="true"]')?.focus();
  }, [faults]);
  const submit = (event: FormEvent) => {
    event.preventDefault();
    // It may stand within another form, to which React would hand it on.
    event.stopPropagation();
    void send();
  };
  return (
    <form ref={form} onSubmit={submit} noValidate className="grid gap-4">
      <div className="grid gap-x-4 gap-y-3">
        {columns.map((column) => (
          <Field
            key={column.path}
            label={<InputLabel label={column.label} mayStayEmpty={column.mayStayEmpty === true} />}
            fault={faults[column.path]}
            beside
          >
            {(ids) => (
              <ColumnInput
                column={column}
                value={typed[column.path] ?? ''}
                onChange={type(column.path)}
                place={{ base, table, id: null }}
                inputProps={ids}
              />
            )}
          </Field>
        ))}
      </div>
      {faults[''] && <Notice kind="fault">{faults['']}</Notice>}
      <div className="flex flex-wrap items-center gap-3">
        <Button type="submit" weight="main" disabled={isBusy || seenBy}>
          {isBusy ? 'Adding …' : 'Add it'}
        </Button>
        {seenBy && <span className="text-sm text-soft">Seen by changes nothing.</span>}
      </div>
    </form>
  );
}
