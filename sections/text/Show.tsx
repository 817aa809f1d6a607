import { lazy, Suspense } from 'react';
import type { ShowProps } from '../show';

const Markdown = lazy(() => import('./Markdown'));

/** The words of a text section. */
export default function TextShow({ section: { text, title } }: ShowProps<'text'>) {
  return (
    <Suspense fallback={<p className="whitespace-pre-line">{text}</p>}>
      <Markdown text={text} titled={title !== undefined} />
    </Suspense>
  );
}
