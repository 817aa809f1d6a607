import type { Page } from '../core/definition/definition';
import type { ListSection } from './list/spec';

/** The list of its page that a section goes with, where it is of the same table. */
export function listOf(
  { sections }: Page,
  { follows, table }: { follows?: string; table: string },
): ListSection | null {
  const found = sections.find((each) => each.id === follows);
  return found?.kind === 'list' && found.table === table ? found : null;
}
