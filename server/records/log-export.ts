import { writeAudit } from '../audit/audit';
import type { PortalVisit } from '../visits/member-visit';

type Taking = Pick<PortalVisit, 'portalId' | 'person' | 'name' | 'email'> & { seenBy?: boolean };

/** Who takes records out, in words. */
function taker({ person, name, email, seenBy }: Taking): string {
  // Who looks so stands in the log already, where it says as whom.
  if (seenBy) return `Whoever builds, as ${name}`;
  switch (person.kind) {
    case 'member':
      return `${name} <${email ?? person.email ?? ''}>`;
    case 'service':
      return `A program, as ${person.roles.join(', ')}`;
    case 'visitor':
      return 'Whoever came without signing in';
    case 'builder':
      return `${name}, who builds`;
  }
}

/** Writes down that somebody takes records out as a file: of which table, and in which form. */
export const logExport = (visit: Taking, table: string, format: string): Promise<void> =>
  writeAudit(visit.portalId, taker(visit), 'exported', `${table}, as ${format}`);
