import { lazy, Suspense } from 'react';
import { Skeleton } from '../../web/ui/Notice';
import type { ShowProps } from '../show';

const Markdown = lazy(() => import('./Markdown'));

/** The words of a text section. */
export default function TextShow({ section: { text, title } }: ShowProps<'text'>) {
  return (
    <Suspense fallback={<Skeleton lines={3} />}>
      <Markdown text={text} titled={title !== undefined} />
    </Suspense>
  );
}
