import { useState } from 'react';
import { useMutation, useQueryClient } from '@tanstack/react-query';
import { isClosed, type Table } from '../../../core/table/catalogue';
import { tryKey } from '../../client/builder';
import { problemText, ServerProblem } from '../../client/http';
import { Button } from '../../ui/Button';
import { Notice } from '../../ui/Notice';
import { useBench } from '../bench/bench-context';

/**
 * For a table or view without a key of its own: what tells its records apart, by the builder's word, tried on the
 * records there are.
 */
export function TableKey({ table }: { table: Table }) {
  const { slug, draft, edit } = useBench();
  const client = useQueryClient();
  const given = draft.tables[table.name]?.key;
  const [asking, setAsking] = useState(false);
  const [ticked, setTicked] = useState<string[]>([]);
  const set = useMutation({
    mutationFn: async (key: string[] | null) => {
      if (key) await tryKey(slug, table.name, key);
      const problem = await edit(
        key ? `Tell the records of ${table.name} apart by ${key.join(', ')}` : `Take the key off ${table.name}`,
        (next) => {
          const notes = (next.tables[table.name] ??= {});
          if (key) notes.key = key;
          else delete notes.key;
        },
      );
      if (problem !== null) throw new Error(problem);
      setAsking(false);
      await client.invalidateQueries({ queryKey: ['builder', slug, 'portal'] });
    },
  });
  const fault =
    set.error instanceof ServerProblem
      ? ((set.error.body.fields as Record<string, string> | undefined)?.key ?? null)
      : null;
  if (given)
    return (
      <div className="p-4 pb-0">
        <Notice
          kind="say"
          action={
            <Button small disabled={set.isPending} onClick={() => set.mutate(null)}>
              Take it off
            </Button>
          }
        >
          Its records are told apart by {given.join(', ')}, by your word. They can be opened, and not changed, because
          the database does not see to it.
        </Notice>
      </div>
    );
  if (table.key.length > 0 || table.query !== undefined) return null;
  const columns = table.columns.filter((column) => column.type !== 'other' && !isClosed(table, column.name));
  return (
    <div className="grid gap-3 p-4 pb-0">
      <Notice
        kind="warn"
        action={
          asking ? undefined : (
            <Button small onClick={() => setAsking(true)}>
              Say what tells them apart
            </Button>
          )
        }
      >
        This table has no primary key. It can be looked at here, and members can&apos;t open its records.
      </Notice>
      {asking && (
        <form
          className="grid gap-2"
          aria-label="What tells the records apart"
          onSubmit={(event) => {
            event.preventDefault();
            set.mutate(ticked);
          }}
        >
          <fieldset className="grid gap-1">
            <legend className="mb-1 text-sm font-semibold">
              Columns that are filled and, taken together, different in every record
            </legend>
            <p className="text-sm text-soft">
              Their values stand in a record&apos;s address, so whoever doesn&apos;t see them whole gets no record of
              it.
            </p>
            {columns.map((column) => (
              <label key={column.name} className="flex items-center gap-2">
                <input
                  type="checkbox"
                  checked={ticked.includes(column.name)}
                  onChange={(event) => {
                    setTicked(
                      event.target.checked ? [...ticked, column.name] : ticked.filter((each) => each !== column.name),
                    );
                    set.reset();
                  }}
                />{' '}
                {column.name} <span className="text-sm text-soft">{column.type}</span>
              </label>
            ))}
          </fieldset>
          {set.isError && (
            <p role="alert" className="text-sm font-medium text-iron">
              {fault ?? problemText(set.error)}
            </p>
          )}
          <div className="flex gap-2">
            <Button type="submit" weight="main" disabled={ticked.length === 0 || set.isPending}>
              Try it and keep it
            </Button>
            <Button onClick={() => setAsking(false)}>Cancel</Button>
          </div>
        </form>
      )}
    </div>
  );
}
