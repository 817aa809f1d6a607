import { hung, type Hung } from '../definition/hung';
import type { Finding } from './finding';
import type { Granted } from './granted';

/** Grants of comments and files that do nothing, less than is meant, or too much. */
export const findHungFaults = (granted: readonly Granted[]): Finding[] =>
  granted.flatMap((each) => hung.flatMap((what) => faultsOf(each, what)));

const words = {
  comments: { came: 'wrote', stand: 'Comments stand', reads: 'reads what members say of', they: 'write' },
  files: { came: 'added', stand: 'Files stand', reads: 'opens the files that members hang on', they: 'add them' },
} as const;

function faultsOf({ grant, lens, role, table, place }: Granted, what: Hung): Finding[] {
  if (!grant[what]) return [];
  const at = `${table.name}/${role.id}`;
  const { came, stand, reads, they } = words[what];
  const found: Finding[] = [];
  if (!grant.see)
    found.push({
      id: `${what}-only/${at}`,
      kind: `${what} without rows`,
      severity: 'broken',
      place,
      title: `${role.name} may read ${what} on ${table.name} and sees no row of it`,
      why: `${stand} beside records that somebody sees. Say which rows they see.`,
    });
  if (lens?.[what]?.theirsBy === null)
    found.push({
      id: `${what}-closed/${at}`,
      kind: `${what} stay closed`,
      severity: 'broken',
      place,
      title: `${role.name} reads of the ${what} on ${table.name} only those that they ${came} themselves`,
      why:
        'Whether a record is theirs is told by other records, so it is not known whether it was when these came ' +
        `there. Let them read earlier ${what} too, or say by a column of the record whose it is.`,
    });
  if (role.for === 'visitors')
    found.push({
      id: `${what}-visitors/${at}`,
      kind: `visitor reads ${what}`,
      severity: 'leak',
      place,
      title: `${role.name} ${reads} ${table.name}, without signing in`,
      why: `Those who ${they} there may not think of everyone. Take ${what} from this role, or say so on the page.`,
    });
  return found;
}
