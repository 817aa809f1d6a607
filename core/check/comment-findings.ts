import type { Finding } from './finding';
import type { Granted } from './granted';

/** Grants of comments that do nothing, less than is meant, or too much. */
export const findCommentFaults = (granted: readonly Granted[]): Finding[] => granted.flatMap(faultsOf);

function faultsOf({ grant, lens, role, table, place }: Granted): Finding[] {
  if (!grant.comments) return [];
  const at = `${table.name}/${role.id}`;
  const found: Finding[] = [];
  if (!grant.see)
    found.push({
      id: `comments-only/${at}`,
      kind: 'comments without rows',
      severity: 'broken',
      place,
      title: `${role.name} may read comments on ${table.name} and sees no row of it`,
      why: 'Comments stand beside records that somebody sees. Say which rows they see.',
    });
  if (lens?.comments?.theirsBy === null)
    found.push({
      id: `comments-closed/${at}`,
      kind: 'comments stay closed',
      severity: 'broken',
      place,
      title: `${role.name} reads of the comments on ${table.name} only those that they wrote themselves`,
      why:
        'Whether a record is theirs is told by other records, so it is not known whether it was when a comment was ' +
        'written. Let them read earlier comments too, or say by a column of the record whose it is.',
    });
  if (role.for === 'visitors')
    found.push({
      id: `comments-visitors/${at}`,
      kind: 'visitor reads comments',
      severity: 'leak',
      place,
      title: `${role.name} reads what members say of ${table.name}, without signing in`,
      why: 'Those who write there may not think of everyone. Take comments from this role, or say so on the page.',
    });
  return found;
}
