import { lazy, Suspense } from 'react';
import type { BesideSheet } from '../../core/definition/hung';
import { usePlace } from '../place/place';
import { Skeleton } from '../ui/Notice';

const Comments = lazy(() => import('./Comments'));
const Files = lazy(() => import('./Files'));
const RecordHistory = lazy(() => import('./RecordHistory'));

/** What stands beside a record: its files, what is said of it, what changed in it. */
export function Hanging({
  hangs,
  ...record
}: {
  hangs: readonly BesideSheet[];
  table: string;
  id: string;
  under: 'h1' | 'h2';
}) {
  const { base } = usePlace();
  return (
    <>
      {hangs.includes('files') && (
        <Suspense fallback={<Skeleton lines={2} />}>
          <Files key={record.id} {...record} />
        </Suspense>
      )}
      {hangs.includes('comments') && (
        <Suspense fallback={<Skeleton lines={3} />}>
          <Comments key={record.id} {...record} />
        </Suspense>
      )}
      {hangs.includes('history') && (
        <Suspense fallback={<Skeleton lines={1} />}>
          <RecordHistory key={record.id} base={base} {...record} />
        </Suspense>
      )}
    </>
  );
}
