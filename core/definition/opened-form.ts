import type { PortalDefinition } from './definition';
import { fromOf } from './form';

/** The section of a page whose form is opened with a record of a table; undefined where there is none. */
export function formOpenedWith(
  { pages, forms = [] }: Pick<PortalDefinition, 'pages' | 'forms'>,
  page: string,
  table: string,
): string | undefined {
  const opens = new Set(forms.filter((form) => fromOf(form) === table).map(({ id }) => id));
  return pages
    .find(({ id }) => id === page)
    ?.sections.find((section) => section.kind === 'form' && opens.has((section as { form?: string }).form ?? ''))?.id;
}
