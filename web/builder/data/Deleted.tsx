import { useShape, useShaping } from '../../client/shape';
import { problemText } from '../../client/http';
import { Button } from '../../ui/Button';
import { Notice } from '../../ui/Notice';
import { useBench } from '../bench/bench-context';
import { hint } from '../../ui/hint';

/** What was deleted in the last day, to be had back. */
export function Deleted() {
  const { slug } = useBench();
  const shape = useShape(slug);
  const back = useShaping(slug, 'POST /shape/gone/:key/back');
  if (!shape.data || shape.data.gone.length === 0) return null;
  return (
    <section aria-label="Deleted lately" className="grid gap-1 px-4 pt-4">
      <h2 className="text-sm font-sans font-semibold text-soft">Deleted lately</h2>
      <ul className="grid gap-1">
        {shape.data.gone.map((each) => (
          <li key={each.key} className="grid gap-0.5">
            <span className="truncate text-sm" {...hint(each.was)}>
              {each.table === null ? each.was : `${each.table}.${each.was}`}
            </span>
            <Button
              small
              className="justify-self-start"
              disabled={back.isPending}
              onClick={() => back.mutate({ params: { key: each.key } })}
              aria-label={`Have ${each.was} back`}
            >
              Have it back
            </Button>
          </li>
        ))}
      </ul>
      {back.isError && (
        <Notice kind="fault">
          {Object.values((back.error as { body?: { fields?: Record<string, string> } }).body?.fields ?? {})[0] ??
            problemText(back.error)}
        </Notice>
      )}
    </section>
  );
}

/** Columns that the portal asks by and that have no index. */
export function IndexAdvice({ table }: { table: string }) {
  const { slug } = useBench();
  const shape = useShape(slug);
  const make = useShaping(slug, 'POST /shape/indexes');
  const missing = shape.data?.missing.filter((each) => each.table === table) ?? [];
  if (missing.length === 0) return null;
  return (
    <div className="p-4 pb-0">
      <Notice kind="say">
        Rules or pages ask by {missing.map((each) => each.column).join(', ')}, and no index begins with{' '}
        {missing.length === 1 ? 'it' : 'them'}. On a large table that is slow.
        <span className="mt-1 flex flex-wrap gap-2">
          {missing.map((each) =>
            shape.data!.own ? (
              <Button
                key={each.column}
                small
                disabled={make.isPending}
                onClick={() => make.mutate({ body: { table: each.table, column: each.column } })}
              >
                Make an index on {each.column}
              </Button>
            ) : (
              <code key={each.column} className="block font-code text-sm">
                {each.statement}
              </code>
            ),
          )}
        </span>
      </Notice>
    </div>
  );
}
