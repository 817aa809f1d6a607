import { Job } from '../store/models';

/**
 * Whether a file was sent by whoever a job is of, where that is a member: reading it through was begun for them.
 * Builders of a portal share its files.
 */
export async function isOwnFile(
  { portalId, ownerKind, ownerId }: Pick<Job, 'portalId' | 'ownerKind' | 'ownerId'>,
  file: string,
): Promise<boolean> {
  if (ownerKind !== 'member') return true;
  const read = await Job.findAll({
    where: { portalId, ownerKind, ownerId, kind: 'read a file' },
    attributes: ['input'],
  });
  return read.some(({ input }) => (JSON.parse(input) as { file: string }).file === file);
}
