import type { ReactNode } from 'react';

/** A table with its name; where it is wider than there is room it is moved sideways, by keys too. */
export function DataTable({
  label,
  head,
  small = false,
  framed = false,
  children,
}: {
  label: string;
  /** One of a column; `Unseen` for one whose name the eye doesn't need. */
  head: readonly ReactNode[];
  small?: boolean;
  framed?: boolean;
  /** Rows: `tr` with `td`. */
  children: ReactNode;
}) {
  return (
    <div
      tabIndex={0}
      role="region"
      aria-label={label}
      className={`shrink-0 overflow-x-auto ${framed ? 'rounded-stone border border-line bg-paper' : ''}`}
    >
      <table className={`table ${small ? 'text-sm' : ''}`}>
        <thead>
          <tr>
            {head.map((each, i) => (
              <th key={i} scope="col">
                {each}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>{children}</tbody>
      </table>
    </div>
  );
}

export const Unseen = ({ children }: { children: ReactNode }) => <span className="sr-only">{children}</span>;
