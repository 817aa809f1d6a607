import { createHmac } from 'node:crypto';
import { Op, UniqueConstraintError } from 'sequelize';
import { inTurns, type Turns } from '../outbox/turns';
import { AuditEntry } from '../store/models';
import { AuditSeal } from '../store/seal-model';

/**
 * The audit log is sealed in batches, behind those who write it: a line is not waited for. Each line has a digest, each
 * seal one of its lines' and of the seal before (a chain of hashes), all of them under a key that is not in the
 * database (HMAC, RFC 2104), so that whoever can write there can't make them anew. That the newest seals and their
 * lines were cut off together is told by a head that was kept elsewhere.
 */

const most = 500;
/** A line is sealed so long after it was written, in milliseconds: what was written beside it is there by then. */
const settled = 10_000;
const every = 15_000;
const mostFaults = 50;

/** Where the log is not as it was sealed. */
export interface SealFault {
  what: 'changed' | 'missing' | 'added' | 'seal broken';
  /** The line's number in the log, or the seal's. */
  number: number;
  /** When the line was written, or its seal made (RFC 3339). */
  at: string;
}

/** What a look at the whole chain found. */
export interface Proof {
  seals: number;
  lines: number;
  /** Lines that are too new to be sealed. */
  unsealed: number;
  /** The newest seal: kept elsewhere it tells whether the end of the log was cut off. */
  head: { number: number; digest: string; sealedAt: string } | null;
  faults: SealFault[];
}

type Sealed = [id: number, digest: string][];

export class AuditSeals {
  private readonly key: Buffer;
  constructor(secretKey: Buffer) {
    this.key = createHmac('sha256', secretKey).update('seals of the audit log').digest();
  }

  private digest(parts: readonly unknown[]): string {
    return createHmac('sha256', this.key).update(JSON.stringify(parts)).digest('base64url');
  }

  /** 96 bits are enough for one line: a second text with the same can't be looked for without the key. */
  private ofLine({ id, portalId, at, who, what, about }: AuditEntry): string {
    const portal = portalId === null ? null : Number(portalId);
    return this.digest([Number(id), portal, at.toISOString(), who, what, about]).slice(0, 16);
  }

  private ofSeal({ number, lastId, lines, before, sealedAt }: Omit<AuditSealed, 'digest'>): string {
    return this.digest([Number(number), Number(lastId), lines, before, sealedAt.toISOString()]);
  }

  /** Seals what has settled by `now`; gives how many lines. */
  async seal(now: Date): Promise<number> {
    let sealed = 0;
    for (;;) {
      const last = await AuditSeal.findOne({ order: [['number', 'DESC']] });
      const entries = await AuditEntry.findAll({
        where: { id: { [Op.gt]: last?.lastId ?? 0 } },
        order: [['id', 'ASC']],
        limit: most,
        raw: true,
      });
      // Up to the first that is too new: numbers are sealed in their order.
      const young = entries.findIndex(({ at }) => at.getTime() > now.getTime() - settled);
      const lines = young < 0 ? entries : entries.slice(0, young);
      if (lines.length === 0) return sealed;
      const seal: Omit<AuditSealed, 'digest'> = {
        number: Number(last?.number ?? 0) + 1,
        lastId: Number(lines.at(-1)!.id),
        lines: JSON.stringify(lines.map((line): Sealed[number] => [Number(line.id), this.ofLine(line)])),
        before: last?.digest ?? '',
        sealedAt: now,
      };
      // Of two servers that seal at one moment one comes first; the other goes on from there.
      try {
        await AuditSeal.create({ ...seal, digest: this.ofSeal(seal) });
        sealed += lines.length;
      } catch (error) {
        if (!(error instanceof UniqueConstraintError)) throw error;
      }
    }
  }

  /** Looks at the whole log, line by line, and says where it is not as it was sealed. */
  async prove(): Promise<Proof> {
    const faults: SealFault[] = [];
    const fault = (what: SealFault['what'], number: number, at: Date) =>
      faults.length < mostFaults && faults.push({ what, number, at: at.toISOString() });
    let before = null as AuditSeal | null;
    let [seals, lines] = [0, 0];
    for (;;) {
      const seal: AuditSeal | null = await AuditSeal.findOne({
        where: { number: { [Op.gt]: before?.number ?? 0 } },
        order: [['number', 'ASC']],
      });
      if (!seal) break;
      seals++;
      const from = Number(before?.lastId ?? 0);
      const follows = Number(seal.number) === Number(before?.number ?? 0) + 1 && seal.before === (before?.digest ?? '');
      if (!follows || seal.digest !== this.ofSeal(seal)) fault('seal broken', Number(seal.number), seal.sealedAt);
      const there = await AuditEntry.findAll({ where: { id: { [Op.gt]: from, [Op.lte]: seal.lastId } }, raw: true });
      const found = new Map(there.map((line) => [Number(line.id), line]));
      for (const [id, digest] of readLines(seal.lines)) {
        const line = found.get(id);
        found.delete(id);
        lines++;
        if (!line) fault('missing', id, seal.sealedAt);
        else if (this.ofLine(line) !== digest) fault('changed', id, line.at);
      }
      for (const [id, line] of found) fault('added', id, line.at);
      before = seal;
    }
    return {
      seals,
      lines,
      unsealed: await AuditEntry.count({ where: { id: { [Op.gt]: before?.lastId ?? 0 } } }),
      head: before && {
        number: Number(before.number),
        digest: before.digest,
        sealedAt: before.sealedAt.toISOString(),
      },
      faults,
    };
  }

  /** Seals in the background, as long as the server runs. */
  begin(): Turns {
    return inTurns(async () => void (await this.seal(new Date())), every);
  }
}

type AuditSealed = Pick<AuditSeal, 'number' | 'lastId' | 'lines' | 'before' | 'digest' | 'sealedAt'>;

/** What a seal holds may itself have been written over. */
function readLines(text: string): Sealed {
  try {
    const lines = JSON.parse(text) as unknown;
    return Array.isArray(lines) ? (lines.filter(Array.isArray) as Sealed) : [];
  } catch {
    return [];
  }
}
