import { ArrowDown, ArrowUp } from 'lucide-react';
import type { ColumnInfo } from '../client/portal';

/** Which columns stand in a list, and in which order; at least one does. */
export function ColumnTicks({
  all,
  shown,
  onShown,
}: {
  all: ColumnInfo[];
  shown: string[];
  onShown: (paths: string[]) => void;
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
            <label className="flex min-w-0 flex-1 items-center gap-2">
              <input
                type="checkbox"
                checked
                disabled={shown.length === 1}
                onChange={() => onShown(shown.filter((path) => path !== column.path))}
              />
              <span className="truncate">{column.label}</span>
            </label>
            <button
              type="button"
              aria-label={`${column.label} further left`}
              disabled={i === 0}
              className="p-1 text-soft hover:text-ink disabled:opacity-30"
              onClick={() => move(i, -1)}
            >
              <ArrowUp size={14} aria-hidden />
            </button>
            <button
              type="button"
              aria-label={`${column.label} further right`}
              disabled={i === columns.length - 1}
              className="p-1 text-soft hover:text-ink disabled:opacity-30"
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
              <label className="flex items-center gap-2">
                <input type="checkbox" checked={false} onChange={() => onShown([...shown, column.path])} />
                <span className="truncate">{column.label}</span>
              </label>
            </li>
          ))}
      </ul>
    </>
  );
}
