import type { Finding } from '../core/check/finding';
import { actionsOf } from '../core/definition/action';
import type { Page, PortalDefinition } from '../core/definition/definition';
import type { OnPage } from '../core/definition/section-kinds';

/** Actions that a section offers at its records and that are not there. */
export function actFindings(
  { id: section, title, table, acts = [] }: OnPage & { table: string; acts?: string[] },
  page: Page,
  { actions }: PortalDefinition,
): Finding[] {
  const there = actionsOf(actions, table);
  return acts
    .filter((act) => !there.some(({ id }) => id === act))
    .map((act) => ({
      id: `act/${page.id}/${section}/${act}`,
      kind: 'section does not work',
      severity: 'broken',
      place: { stage: 'pages', page: page.id },
      title: `${title ?? table} on ${page.title} offers an action that is gone`,
      why: 'Nobody gets its button. Take it out of the section, or choose another.',
    }));
}
