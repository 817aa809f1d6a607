import type { FilesOfColumns } from '../gate/gate';
import { fileTypeFromBuffer } from 'file-type';
import { Op, type Sequelize, type Transaction } from 'sequelize';
import { Problem } from '../../core/refusals/problem';
import type { Person } from '../../core/access/person';
import { StoredFile } from '../store/models';
import { fileHeaders } from './file-headers';
import { keepFile } from './stored-file';

/** The largest file that a column of a record may hold. */
const largestOfColumn = 25 * 1024 * 1024;
const keptUnused = 24 * 3600 * 1000;
const purpose = 'column';

/** What is known of a file that was sent for a column. */
interface Facts {
  table: string;
  column: string;
  /** Who sent it. */
  by: string;
  /** Whether a record holds it. */
  held: boolean;
}

const who = (person: Person): string => `${person.kind} ${person.id ?? person.email ?? ''}`;

/** So much one person may have sent that no record holds yet. */
const mostUnheld = { files: 60, bytes: 250 * 1024 * 1024 };

/** Refuses a file of somebody who has sent too much that no record holds: it is all kept for a day. */
async function refuseTooMuch(portalId: number, person: Person): Promise<void> {
  const unheld = (
    await StoredFile.findAll({ where: { portalId, purpose, goneAt: { [Op.ne]: null } }, attributes: ['size', 'facts'] })
  ).filter((file) => (JSON.parse(file.facts) as Partial<Facts>).by === who(person));
  if (unheld.length >= mostUnheld.files || unheld.reduce((sum, file) => sum + file.size, 0) >= mostUnheld.bytes)
    throw new Problem(
      429,
      'too-many-files',
      `You have sent ${unheld.length} files that no record holds yet. Save the records that they are for, or ` +
        'wait: what is not used is forgotten after a day.',
    );
}

/**
 * Keeps a file that a person sends for a column, for a day until a record holds it. Its type is told by its bytes,
 * never by its name.
 */
export async function keepForColumn(
  sequelize: Sequelize,
  portalId: number,
  person: Person,
  place: { table: string; column: string },
  name: string,
  bytes: AsyncIterable<Uint8Array>,
): Promise<{ file: string; name: string; size: number; type: string }> {
  const start: Buffer[] = [];
  let seen = 0;
  const watched = async function* () {
    for await (const part of bytes) {
      if (seen < 4100) start.push(Buffer.from(part));
      seen += part.length;
      yield part;
    }
  };
  await refuseTooMuch(portalId, person);
  const file = await keepFile(
    sequelize,
    {
      portalId,
      name,
      purpose,
      type: 'application/octet-stream',
      goneAt: new Date(Date.now() + keptUnused),
      facts: JSON.stringify({ ...place, by: who(person), held: false } satisfies Facts),
    },
    watched(),
    largestOfColumn,
  );
  const type = (await fileTypeFromBuffer(Buffer.concat(start)))?.mime ?? 'application/octet-stream';
  await file.update({ type });
  return { file: file.id, name: file.name, size: file.size, type };
}

/** For the gate: which files a person may put into a column. */
export function filesOf(portalId: number, person: Person): FilesOfColumns {
  const holding: { file: StoredFile; facts: Facts }[] = [];
  return {
    async hold(table, column, id) {
      const file = await StoredFile.findOne({ where: { id, portalId, purpose } });
      const facts = file && (JSON.parse(file.facts) as Facts);
      if (!file || facts?.table !== table || facts.column !== column) return false;
      // What a record holds is nobody else's to take; the builder may put it back where it was.
      if (person.kind !== 'builder' && (facts.held || facts.by !== who(person))) return false;
      await file.update({ goneAt: null, facts: JSON.stringify({ ...facts, held: true }) });
      if (!facts.held) holding.push({ file, facts });
      return true;
    },
    held: () => holding.length,
    async letGo(after) {
      for (const { file, facts } of holding.splice(after))
        await file.update({ goneAt: new Date(Date.now() + keptUnused), facts: JSON.stringify(facts) });
    },
  };
}

/** A file of a record to be sent. */
export async function fileOfColumn(
  portalId: number,
  id: string,
): Promise<{ file: StoredFile; headers: Record<string, string> } | null> {
  const file = await StoredFile.findOne({ where: { id, portalId, purpose } });
  if (!file) return null;
  return { file, headers: fileHeaders(file) };
}

/** The files of columns after a table or column got another name. */
export async function renameFiles(
  sequelize: Sequelize,
  portalId: number,
  { table, column, to }: { table: string; column?: string; to: string },
  transaction: Transaction,
): Promise<void> {
  const [part, narrowed] =
    column === undefined ? ['$.table', ''] : ['$.column', " AND JSON_VALUE(facts, '$.column') = :column"];
  await sequelize.query(
    `UPDATE files SET facts = JSON_SET(facts, '${part}', :to) WHERE portal_id = :portalId AND purpose = ` +
      `'${purpose}' AND JSON_VALUE(facts, '$.table') = :table${narrowed}`,
    { replacements: { portalId, table, column: column ?? null, to }, transaction },
  );
}
