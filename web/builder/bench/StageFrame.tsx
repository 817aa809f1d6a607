import type { ReactNode } from 'react';
import { Link } from 'react-router';
import { hint } from '../../ui/hint';

export interface Item {
  key: string;
  label: string;
  /** What the database calls it, where that is another. */
  raw?: string;
  aside?: ReactNode;
  to: string;
  current: boolean;
}

/** Left: the stage's objects. Middle: the one being worked on. */
export function StageFrame({
  title,
  groups,
  foot,
  children,
}: {
  title: string;
  groups: { title: string; items: Item[] }[];
  foot?: ReactNode;
  children: ReactNode;
}) {
  return (
    <div className="grid min-h-0 flex-1 grid-cols-[11.5rem_minmax(0,1fr)]">
      <nav aria-label={title} className="min-h-0 overflow-y-auto border-r border-line py-3">
        {groups.map((group) => (
          <div key={group.title} className="mb-3">
            <h2 className="px-4 py-1 text-sm font-sans font-semibold text-soft">{group.title}</h2>
            <ul>
              {group.items.map((item) => (
                <li key={item.key}>
                  <Link
                    to={item.to}
                    aria-current={item.current ? 'page' : undefined}
                    className={
                      'flex items-baseline gap-2 px-4 py-1 text-ink no-underline hover:bg-sunk ' +
                      `${item.current ? 'bg-lichen-wash font-bold shadow-[inset_3px_0_0_var(--lichen)]' : ''}`
                    }
                  >
                    <span
                      className="line-clamp-2 min-w-0 flex-1 [overflow-wrap:anywhere]"
                      {...hint(item.raw ?? item.label)}
                    >
                      {item.label}
                    </span>
                    {item.aside !== undefined && (
                      <span className="text-sm font-normal text-soft tabular-nums">{item.aside}</span>
                    )}
                  </Link>
                </li>
              ))}
            </ul>
          </div>
        ))}
        {foot}
      </nav>
      <main className="flex min-h-0 min-w-0 flex-col overflow-y-auto bg-paper">{children}</main>
    </div>
  );
}

export function StageHead({ title, children }: { title: ReactNode; children?: ReactNode }) {
  return (
    <div className="flex flex-wrap items-center gap-3 border-b border-line px-4 py-2.5 min-h-13">
      <h1 className="mr-auto text-xl">{title}</h1>
      {children}
    </div>
  );
}
