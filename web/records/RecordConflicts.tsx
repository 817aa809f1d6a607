import type { Value } from '../../core/table/value';
import type { ColumnInfo } from '../client/portal';
import { Button } from '../ui/Button';
import { Notice } from '../ui/Notice';
import { cellText } from './Cell';

/** By column: what this person was shown, what somebody has made of it since, and what this person wrote. */
export type Conflicts = Record<string, { was: Value; now: Value; yours: Value }>;

/** Where two people changed the same: each column is settled by choosing one of the two. */
export function RecordConflicts({
  columns,
  conflicts,
  onSettle,
}: {
  columns: ColumnInfo[];
  conflicts: Conflicts;
  onSettle: (column: ColumnInfo, mine: boolean) => void;
}) {
  const text = (column: ColumnInfo, value: Value) => cellText(column.type, value, column.identifies) || 'nothing';
  return (
    <Notice kind="warn">
      <p className="font-semibold">
        Someone else has changed this record while you were editing it. Nothing of yours was saved yet.
      </p>
      <ul className="mt-2 grid gap-3">
        {columns.flatMap((column) => {
          const conflict = conflicts[column.path];
          if (!conflict) return [];
          const now = text(column, conflict.now);
          return [
            <li key={column.path} className="grid gap-1">
              <span className="font-semibold">{column.label}</span>
              <span>
                It now says “{now}”; you wrote “{text(column, conflict.yours)}”.
              </span>
              <span className="flex flex-wrap gap-2">
                <Button small onClick={() => onSettle(column, false)}>
                  Keep “{now}”
                </Button>
                <Button small onClick={() => onSettle(column, true)}>
                  Use mine
                </Button>
              </span>
            </li>,
          ];
        })}
      </ul>
    </Notice>
  );
}
