import { lazy, Suspense, useEffect, useRef, useState, type ReactNode } from 'react';
import { Pencil } from 'lucide-react';
import type { ColumnInfo, ViewRecord } from '../../web/client/portal';

const InPlace = lazy(() => import('./InPlace'));

/** A cell that can be changed where it stands: by its pencil, which is there for the keyboard as well. */
export default function ChangingCell({
  section,
  table,
  column,
  record,
  called,
  children,
}: {
  section: string;
  table: string;
  column: ColumnInfo;
  record: ViewRecord & { id: string };
  called: string;
  children: ReactNode;
}) {
  const [isChanging, setChanging] = useState(false);
  const pencil = useRef<HTMLButtonElement>(null);
  // Back to where it was begun, once that is there again.
  const wasChanging = useRef(false);
  useEffect(() => {
    if (!isChanging && wasChanging.current) pencil.current?.focus();
    wasChanging.current = false;
  }, [isChanging]);
  if (isChanging)
    return (
      <Suspense fallback={children}>
        <InPlace
          section={section}
          table={table}
          column={column}
          record={record}
          called={called}
          onDone={() => {
            wasChanging.current = true;
            setChanging(false);
          }}
        />
      </Suspense>
    );
  return (
    <span className="inline-flex items-start gap-1">
      <span>{children}</span>
      <button
        ref={pencil}
        type="button"
        aria-label={`Change ${column.label} of ${called}`}
        className={
          'no-print min-h-6 min-w-6 rounded-stone text-soft hover:bg-line hover:text-ink focus-visible:opacity-100 ' +
          '[@media(hover:hover)]:opacity-0 [@media(hover:hover)]:group-hover/record:opacity-100'
        }
        onClick={() => setChanging(true)}
      >
        <Pencil size={13} className="mx-auto" aria-hidden />
      </button>
    </span>
  );
}
