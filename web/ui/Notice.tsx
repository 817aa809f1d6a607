import { CircleAlert, Info, TriangleAlert } from 'lucide-react';
import type { ReactNode } from 'react';

const kinds = {
  fault: {
    look: 'bg-iron-wash text-ink border-iron',
    icon: <CircleAlert className="text-iron" size={18} aria-hidden />,
  },
  warn: {
    look: 'bg-ochre-wash text-ink border-ochre-fill',
    icon: <TriangleAlert className="text-ochre" size={18} aria-hidden />,
  },
  say: { look: 'bg-water-wash text-ink border-water', icon: <Info className="text-water" size={18} aria-hidden /> },
};

/** Something that the person should read: a fault is announced at once. */
export function Notice({
  kind,
  children,
  action,
}: {
  kind: keyof typeof kinds;
  children: ReactNode;
  action?: ReactNode;
}) {
  return (
    <div
      role={kind === 'fault' ? 'alert' : 'status'}
      className={`flex flex-wrap items-start gap-x-3 gap-y-1 rounded-stone border px-3 py-2 ${kinds[kind].look}`}
    >
      <div className="flex min-w-0 grow basis-80 items-start gap-3">
        <span className="mt-0.5">{kinds[kind].icon}</span>
        <div className="min-w-0 flex-1">{children}</div>
      </div>
      {action}
    </div>
  );
}

/** Grey bars in the shape of what is being loaded. */
export function Skeleton({ lines = 4 }: { lines?: number }) {
  return (
    <div role="status" aria-label="Loading" className="grid gap-2 py-2">
      {Array.from({ length: lines }, (_, i) => (
        <div key={i} className="h-5 rounded-stone bg-sunk" style={{ width: `${90 - ((i * 17) % 40)}%` }} />
      ))}
    </div>
  );
}
