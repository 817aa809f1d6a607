import { useState } from 'react';
import { problemText } from '../../client/http';
import { useShaping } from '../../client/shape';
import { Button } from '../../ui/Button';
import { Field } from '../../ui/Field';
import { Notice } from '../../ui/Notice';
import { useBench } from '../bench/bench-context';
import { StageHead } from '../bench/StageFrame';
import { Select } from '../../ui/Select';

/** Tables from a SQL script: shown as what they would be, then made with their rows. */
export function FromScript({ onDone, onCancel }: { onDone: (table: string) => void; onCancel: () => void }) {
  const { slug } = useBench();
  const [text, setText] = useState('');
  const [dialect, setDialect] = useState<'MariaDB' | 'PostgreSQL'>('MariaDB');
  const look = useShaping(slug, 'POST /shape/script');
  const make = useShaping(slug, 'POST /shape/script');
  const error = make.error ?? look.error;
  const seen = look.data && 'remarks' in look.data ? look.data : null;
  const again = () => {
    look.reset();
    make.reset();
  };
  const send = (apply: boolean) => ({ body: { text, dialect, apply } });
  return (
    <>
      <StageHead title="Tables from a SQL script">
        <Button small onClick={onCancel}>
          Cancel
        </Button>
      </StageHead>
      <form
        className="grid content-start gap-4 p-4"
        onSubmit={(event) => {
          event.preventDefault();
          look.mutate(send(false));
        }}
      >
        <div className="max-w-60">
          <Field label="Written for">
            {(ids) => (
              <Select
                {...ids}
                value={dialect}
                onPick={(picked) => {
                  setDialect(picked as 'MariaDB');
                  again();
                }}
              >
                <option value="MariaDB">MariaDB or MySQL</option>
                <option>PostgreSQL</option>
              </Select>
            )}
          </Field>
        </div>
        <Field
          label="Script"
          hint={
            "CREATE TABLE, and INSERT … VALUES for rows. A dump's own lines are passed over; anything else is " +
            'refused.'
          }
        >
          {(ids) => (
            <textarea
              rows={12}
              spellCheck={false}
              className="field font-code text-sm"
              {...ids}
              value={text}
              onChange={(event) => {
                setText(event.target.value);
                again();
              }}
            />
          )}
        </Field>
        <div className="max-w-80">
          <Field label="Or a file with it">
            {(ids) => (
              <input
                type="file"
                accept=".sql,text/plain"
                className="field"
                {...ids}
                onChange={(event) =>
                  void event.target.files?.[0]?.text().then((read) => {
                    setText(read);
                    again();
                  })
                }
              />
            )}
          </Field>
        </div>
        {error && <Notice kind="fault">{problemText(error)}</Notice>}
        {seen && (
          <section aria-label="What it would make" className="grid gap-3">
            {seen.remarks.map((remark) => (
              <Notice key={remark} kind="warn">
                {remark}
              </Notice>
            ))}
            {seen.tables.map((table) => (
              <div key={table.name} className="rounded-stone border border-line p-3">
                <h2 className="text-base">
                  {table.name}{' '}
                  <span className="font-sans text-sm font-normal text-soft">
                    {table.rows.toLocaleString()} {table.rows === 1 ? 'row' : 'rows'}
                  </span>
                </h2>
                <ul className="mt-1 grid gap-0.5 text-sm">
                  {!table.columns.some((column) => column.name === (table.key ?? 'id')) && (
                    <li>
                      <strong>{table.key ?? 'id'}</strong> a number that the database gives, the key
                    </li>
                  )}
                  {table.columns.map((column) => (
                    <li key={column.name}>
                      <strong>{column.name}</strong> {column.type}
                      {column.to ? ` to ${column.to}` : ''}
                      {column.name === table.key ? ', the key' : ''}
                      {column.required ? ', required' : ''}
                      {column.unique ? ', each value once' : ''}
                      {column.choices ? `: ${column.choices.join(', ')}` : ''}
                    </li>
                  ))}
                </ul>
              </div>
            ))}
          </section>
        )}
        <div className="flex gap-2">
          <Button type="submit" weight={seen ? 'plain' : 'main'} disabled={text.trim() === '' || look.isPending}>
            Look what it would make
          </Button>
          {seen && (
            <Button
              weight="main"
              disabled={make.isPending}
              onClick={() =>
                make.mutate(send(true), { onSuccess: (made) => 'rows' in made && onDone(made.tables[0]!) })
              }
            >
              Make {seen.tables.length === 1 ? seen.tables[0]!.name : `these ${seen.tables.length} tables`}
            </Button>
          )}
        </div>
      </form>
    </>
  );
}
