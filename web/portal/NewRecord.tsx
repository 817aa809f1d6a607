import { useEffect, useRef } from 'react';
import { useTableInfo } from '../client/grid';
import type { ColumnInfo } from '../client/portal';
import { SpotLink, usePlace } from '../place/place';
import { NewForm } from '../records/NewForm';
import { buttonLook } from '../ui/Button';

/** A record that is being made, in the place of one that is open. */
export function NewRecord({ table, sheet }: { table: string; sheet: ColumnInfo[] }) {
  const { base, spot, go } = usePlace();
  const info = useTableInfo(base, table);
  const heading = useRef<HTMLHeadingElement>(null);
  useEffect(() => heading.current?.focus({ preventScroll: true }), []);
  return (
    <section aria-label="New record" className="grid content-start gap-4 p-4 @min-[560px]:p-5">
      <div className="flex items-start gap-3">
        <h2 ref={heading} tabIndex={-1} className="flex-1 min-w-0 break-words outline-none pt-0.5">
          New in {info.data?.label ?? '…'}
        </h2>
        <SpotLink to={{ ...spot, record: null }} className={`no-print ${buttonLook('plain', true)}`}>
          Close
        </SpotLink>
      </div>
      <NewForm
        table={table}
        sheet={sheet}
        onMade={(id) =>
          go({ ...spot, record: id === null ? null : { section: spot.record!.section, id } }, { replace: true })
        }
      />
    </section>
  );
}
