import { dataClassOf, type PortalDefinition } from '../../core/definition/definition';
import { nameColumns } from '../../core/definition/name-columns';
import { findTable, type Catalogue } from '../../core/table/catalogue';
import { Member } from '../store/people-models';
import { standInKey } from '../store/stand-in';

/** What somebody is called to whoever looks. */
export interface Calling {
  name(of: string): string;
  email(of: string): string;
  /** By what they can be looked for: not by what isn't told. */
  found: ('name' | 'email')[];
}

const asTheyAre: Calling = { name: (of) => of, email: (of) => of, found: ['name', 'email'] };

/**
 * What members are called to a builder: as they are, or, to one who is kept from personal data, by stand-ins where the
 * column of any roster that says it has a data class.
 */
export async function callingTo(
  { definition, catalogue, withoutSight }: { definition: PortalDefinition; catalogue: Catalogue; withoutSight?: true },
  portalId: number,
): Promise<Calling> {
  if (!withoutSight) return asTheyAre;
  const isKept = (columns: (roster: PortalDefinition['rosters'][number]) => string[]) =>
    definition.rosters.some((roster) => {
      const table = findTable(catalogue, roster.table);
      return !table || columns(roster).some((column) => dataClassOf(definition, table, column) !== null);
    });
  const { hmac } = await standInKey(portalId);
  const standIn = (of: string) => `#${hmac(of).slice(0, 10)}`;
  const keepsEmails = isKept(({ email }) => [email]);
  // Whoever came by an open domain is called by their address.
  const areCalledByEmail = keepsEmails && (await Member.count({ where: { portalId, withoutRow: true } })) > 0;
  const keepsNames = areCalledByEmail || isKept(nameColumns);
  return {
    name: keepsNames ? standIn : asTheyAre.name,
    email: keepsEmails ? standIn : asTheyAre.email,
    found: [...(keepsNames ? [] : ['name' as const]), ...(keepsEmails ? [] : ['email' as const])],
  };
}
