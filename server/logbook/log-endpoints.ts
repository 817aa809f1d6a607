import { Readable } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import Joi from 'joi';
import { Op, type WhereOptions } from 'sequelize';
import { Problem } from '../../core/refusals/problem';
import { logLine, type LogLine } from '../audit/log-line';
import type { AuditSeals, Proof, SealFault } from '../audit/seals';
import { atPortal, type BenchServices } from '../bench/bench';
import { writeAudit } from '../audit/audit';
import { exportFormats, exportText } from '../formats/export-text';
import type { ExportedPage } from '../gate/gate';
import { form, listOf, moment, said, whole, wholeOrNull } from '../http/answers';
import { endpoint, FileAnswer, ownNumber } from '../http/endpoint';
import { callingTo, type Calling } from '../people/calling';
import { sightOf } from '../sessions/as-builder';
import { AuditEntry, Builder, type Portal } from '../store/models';

/** What of a log is looked for. */
interface Asked {
  search: string;
  what: string;
  from: string | null;
  to: string | null;
}

const asked = {
  search: Joi.string().allow('').trim().max(200).default(''),
  what: Joi.string().allow('').max(60).default(''),
  /** Days of UTC, both of them within. */
  from: Joi.string()
    .pattern(/^\d{4}-\d\d-\d\d$/, 'a day')
    .allow(null)
    .default(null),
  to: Joi.string()
    .pattern(/^\d{4}-\d\d-\d\d$/, 'a day')
    .allow(null)
    .default(null),
};

/** A page of a log, the newest first. */
export interface LogPage {
  entries: LogLine[];
  /** Where the next page goes on; null at the end. */
  before: number | null;
  /** What there are lines of. */
  kinds: string[];
}

const pageSize = 100;
const readAtOnce = 1000;

const sealFault = form<SealFault>({
  what: Joi.valid('changed', 'missing', 'added', 'seal broken'),
  number: whole,
  at: moment,
});

/** The audit log of a portal: looked through, taken out, and proven. */
export function logEndpoints(services: BenchServices & { seals: AuditSeals }) {
  const entry = atPortal(services);
  const teller = async (portal: Portal, builder: Builder, question: Asked) => {
    const definition = await services.definitions.draft(portal);
    const { catalogue } = await services.sources.of(definition);
    const calling = await callingTo({ definition, catalogue, ...sightOf(builder) }, portal.id);
    // Who finds a line by somebody's address is told that it is theirs.
    if (question.search !== '' && calling.found.length < 2)
      throw new Problem(403, 'personal-data', 'Words can be looked for by those who see personal data. Choose a kind.');
    const named = new Set((await Builder.findAll({ attributes: ['email'] })).map((each) => each.email));
    return ({ at, who, what, about }: AuditEntry) => toldTo(calling, named, { at: at.toISOString(), who, what, about });
  };
  return {
    auditLog: endpoint({
      method: 'GET',
      path: '/log',
      says: 'Lines of the audit log, the newest first, by words, kind and days.',
      entry,
      query: Joi.object<Asked & { before: number | null }>({ ...asked, before: ownNumber.allow(null).default(null) }),
      answers: {
        200: form<LogPage>({ entries: listOf(logLine), before: wholeOrNull, kinds: listOf(said) }),
      },
      does: async ({ portal, builder, query }) => {
        const tell = await teller(portal, builder, query);
        const found = await linesOf(portal, query, query.before, pageSize + 1);
        const kinds = await AuditEntry.findAll({
          where: { portalId: portal.id },
          attributes: ['what'],
          group: ['what'],
          order: [['what', 'ASC']],
        });
        return {
          entries: found.slice(0, pageSize).map(tell),
          before: found.length > pageSize ? Number(found[pageSize - 1]!.id) : null,
          kinds: kinds.map(({ what }) => what),
        };
      },
    }),
    auditFile: endpoint({
      method: 'GET',
      path: '/log/file',
      says: 'The same lines as a file, the newest first.',
      entry,
      query: Joi.object<Asked>(asked),
      answers: { 200: new FileAnswer('text/csv; charset=utf-8') },
      does: async ({ portal, builder, signed, query, res }) => {
        const tell = await teller(portal, builder, query);
        await writeAudit(portal.id, signed, 'exported', 'the audit log');
        res.attachment(`${portal.slug}-audit-log.csv`).type(exportFormats.csv.type);
        await pipeline(Readable.from(exportText('csv', pagesOf(portal, query, tell), { guard: true })), res);
      },
    }),
    auditProof: endpoint({
      method: 'GET',
      path: '/log/proof',
      says: 'Looks at every line of the log and its seals, and says where it is not as it was sealed.',
      entry,
      answers: {
        200: form<Proof>({
          seals: whole,
          lines: whole,
          unsealed: whole,
          head: form<NonNullable<Proof['head']>>({ number: whole, digest: said, sealedAt: moment }).allow(null),
          faults: listOf(sealFault),
        }),
      },
      does: () => services.seals.prove(),
    }),
  };
}

/** All lines that are asked for, as pages of a file. */
async function* pagesOf(
  portal: Portal,
  question: Asked,
  tell: (entry: AuditEntry) => LogLine,
): AsyncGenerator<ExportedPage> {
  for (let before: number | null = null, isMore = true; isMore;) {
    const found: AuditEntry[] = await linesOf(portal, question, before, readAtOnce);
    const records = found.map(tell).map(({ at, who, what, about }) => ({
      cells: [at, who, what, about],
      masked: [],
    }));
    yield { columns: ['at', 'who', 'what', 'about'], records };
    isMore = found.length === readAtOnce;
    before = Number(found.at(-1)?.id ?? 0);
  }
}

/** `%` and `_` are what they are. */
const literally = (words: string) => words.replaceAll(/[\\%_]/g, (sign) => `\\${sign}`);

function linesOf(
  { id }: Portal,
  { search, what, from, to }: Asked,
  before: number | null,
  limit: number,
): Promise<AuditEntry[]> {
  const words = { [Op.like]: `%${literally(search)}%` };
  const where = {
    portalId: id,
    ...(what === '' ? {} : { what }),
    ...(search === '' ? {} : { [Op.or]: [{ who: words }, { about: words }] }),
    ...(before === null ? {} : { id: { [Op.lt]: before } }),
    [Op.and]: [
      ...(from === null ? [] : [{ at: { [Op.gte]: new Date(`${from}T00:00:00Z`) } }]),
      ...(to === null ? [] : [{ at: { [Op.lt]: new Date(Date.parse(`${to}T00:00:00Z`) + 86_400_000) } }]),
    ],
  } as WhereOptions<AuditEntry>;
  return AuditEntry.findAll({ where, order: [['id', 'DESC']], limit });
}

/** An e-mail address as it stands in the words of a line. */
const address = /[^\s<>,;]+@[^\s<>,;]+/g;

/** A line of the log with no more of members than whoever looks is told elsewhere. Builders are called as they are. */
function toldTo({ email, found }: Calling, builders: ReadonlySet<string>, line: LogLine): LogLine {
  if (found.length === 2) return line;
  const told = (words: string) => words.replaceAll(address, (of) => email(of));
  const [by] = line.who.match(address) ?? [];
  const isMember = by !== undefined && !builders.has(by);
  const hasNames = found.includes('name');
  return {
    ...line,
    who: !isMember ? line.who : hasNames ? told(line.who) : email(by),
    // From where somebody comes is told to those alone who are told all of them.
    about: hasNames && line.what !== 'signed in' ? told(line.about) : '',
  };
}
