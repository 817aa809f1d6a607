import { lazy, Suspense } from 'react';
import type { Hung } from '../../core/definition/hung';
import { Skeleton } from '../ui/Notice';

const Comments = lazy(() => import('./Comments'));
const Files = lazy(() => import('./Files'));

/** What members hang on a record: files, then what is said of it. */
export function Hanging({
  hangs,
  ...record
}: {
  hangs: readonly Hung[];
  table: string;
  id: string;
  under: 'h1' | 'h2';
}) {
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
    </>
  );
}
