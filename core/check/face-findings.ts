import { isPublic } from '../access/public-pages';
import type { PortalDefinition } from '../definition/definition';
import type { Finding } from './finding';

/** Sites that may show a portal of which nothing is public: no cookie goes along to another site's frame. */
export function findFaceFaults(definition: PortalDefinition): Finding[] {
  const { embeddedIn = [] } = definition.portal;
  if (embeddedIn.length === 0 || definition.pages.some((page) => isPublic(page, definition))) return [];
  return [
    {
      id: 'face/embedded',
      kind: 'face does not work',
      severity: 'broken',
      place: { stage: 'pages' },
      title: `${embeddedIn.join(' and ')} may show the portal, of which nothing is public`,
      why:
        'Nobody can be signed in within a page of another site, so only the way to sign in stands there. Make a page ' +
        'public, or take the site out of the portal’s face.',
    },
  ];
}
