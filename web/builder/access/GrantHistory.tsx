import { Link } from 'react-router';
import { historyOf } from '../../../core/definition/history';
import { useBench } from '../bench/bench-context';
import type { PartProps } from './GrantParts';

/** Whether a role reads what changed in the records that it sees. */
export function GrantHistory({ table, role, grant, change }: Pick<PartProps, 'table' | 'role' | 'grant' | 'change'>) {
  const { draft, to } = useBench();
  if (!grant.see)
    return (
      <p className="text-soft">
        What changed stands beside records that somebody sees. Say first which rows {role.name} sees.
      </p>
    );
  return (
    <div className="grid gap-2">
      <label className="inline-flex min-h-6 items-center gap-1.5">
        <input
          type="checkbox"
          checked={grant.history === true}
          onChange={({ target: { checked } }) =>
            void change(
              `${checked ? 'Let' : 'Stop'} ${role.name} ${checked ? 'read' : 'reading'} what changed in ${table.name}`,
              ({ history: _was, ...others }) => (checked ? { ...others, history: true } : others),
            )
          }
        />{' '}
        They read what changed, by whom and when
      </label>
      <p className="text-sm text-soft">
        A value of before is told only where they see the cell now and their rules held for the record as it was then: a
        new owner does not read the former&apos;s values. What is masked for them is not told.
      </p>
      {historyOf(draft, table) === null && (
        <p className="text-sm font-medium text-iron">
          Nothing of {table.name} is kept yet.{' '}
          <Link className="underline" to={to('data', table.name, { show: 'history' })}>
            Let it keep what changes
          </Link>
        </p>
      )}
    </div>
  );
}
