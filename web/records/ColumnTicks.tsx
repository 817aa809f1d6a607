import { ArrowDown, ArrowUp, Minus, Plus } from 'lucide-react';
import type { ColumnInfo } from '../client/portal';

/** Which columns stand in a list, and in which order; at least one does. */
export function ColumnTicks({
  all,
  shown,
  onShown,
  onWidth,
}: {
  all: ColumnInfo[];
  shown: string[];
  onShown: (paths: string[]) => void;
  /** Makes a column narrower or wider by a step, where that can be done. */
  onWidth?: (path: string, by: -1 | 1) => void;
}) {
  const columns = shown.flatMap((path) => all.find((column) => column.path === path) ?? []);
  const move = (i: number, by: number) => {
    const next = [...shown];
    const [path] = next.splice(i, 1);
    next.splice(i + by, 0, path!);
    onShown(next);
  };
  return (
    <>
      <ul className="grid gap-0.5">
        {columns.map((column, i) => (
          <li key={column.path} className="flex items-center gap-1">
            <label className="flex min-h-[26px] min-w-0 flex-1 items-center gap-2">
              <input
                type="checkbox"
                checked
                disabled={shown.length === 1}
                onChange={() => onShown(shown.filter((path) => path !== column.path))}
              />
              <span className="truncate">{column.label}</span>
            </label>
            {onWidth &&
              ([-1, 1] as const).map((by) => (
                <button
                  key={by}
                  type="button"
                  aria-label={`${column.label} ${by < 0 ? 'narrower' : 'wider'}`}
                  className="grid size-[26px] shrink-0 place-items-center text-soft hover:text-ink"
                  onClick={() => onWidth(column.path, by)}
                >
                  {by < 0 ? <Minus size={14} aria-hidden /> : <Plus size={14} aria-hidden />}
                </button>
              ))}
            <button
              type="button"
              aria-label={`${column.label} further left`}
              disabled={i === 0}
              className="grid size-[26px] shrink-0 place-items-center text-soft hover:text-ink disabled:opacity-30"
              onClick={() => move(i, -1)}
            >
              <ArrowUp size={14} aria-hidden />
            </button>
            <button
              type="button"
              aria-label={`${column.label} further right`}
              disabled={i === columns.length - 1}
              className="grid size-[26px] shrink-0 place-items-center text-soft hover:text-ink disabled:opacity-30"
              onClick={() => move(i, 1)}
            >
              <ArrowDown size={14} aria-hidden />
            </button>
          </li>
        ))}
      </ul>
      {all.some((column) => !shown.includes(column.path)) && (
        <h3 className="mt-2 mb-1 border-t border-line pt-2 text-sm">Not shown</h3>
      )}
      <ul className="grid gap-0.5">
        {all
          .filter((column) => !shown.includes(column.path))
          .map((column) => (
            <li key={column.path}>
              <label className="flex min-h-[26px] items-center gap-2">
                <input type="checkbox" checked={false} onChange={() => onShown([...shown, column.path])} />
                <span className="truncate">{column.label}</span>
              </label>
            </li>
          ))}
      </ul>
    </>
  );
}
