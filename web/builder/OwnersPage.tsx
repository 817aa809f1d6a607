import type { ReactNode } from 'react';
import { NavLink } from 'react-router';

const pages = [
  { to: '/colleagues', label: 'Colleagues' },
  { to: '/colleagues/sign-in', label: 'How they sign in' },
  { to: '/colleagues/log', label: 'What owners changed' },
];

/** A page for owners, about what holds for every portal. */
export function OwnersPage({
  title,
  says,
  action,
  children,
}: {
  title: string;
  says?: string;
  action?: ReactNode;
  children: ReactNode;
}) {
  return (
    <main className="mx-auto grid max-w-220 gap-5 p-6">
      <nav aria-label="Owners" className="flex flex-wrap gap-x-5 gap-y-1">
        <NavLink to="/">Portals</NavLink>
        {pages.map(({ to, label }) => (
          <NavLink key={to} to={to} end className="aria-[current=page]:font-bold aria-[current=page]:no-underline">
            {label}
          </NavLink>
        ))}
      </nav>
      <div className="flex items-center gap-3">
        <div className="flex-1">
          <h1>{title}</h1>
          {says && <p className="text-soft">{says}</p>}
        </div>
        {action}
      </div>
      {children}
    </main>
  );
}
