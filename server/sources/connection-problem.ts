import { Problem } from '../../core/refusals/problem';
import type { ConnectedDatabase } from './connected-database';
import { SourceGone } from './gone';
import { NotKept, OutcomeUnknown } from './outcome-unknown';

/** Why a database can't be reached or used, as a sentence, and the field of the form that it is about. */
export class ConnectionProblem extends Problem {
  constructor(
    readonly field: 'host' | 'port' | 'database' | 'user' | 'password' | 'tls' | null,
    sentence: string,
  ) {
    super(422, 'connection', sentence, field ? { fields: { [field]: sentence } } : {});
  }
}

/**
 * Says what an error of a driver means; null when it is not about the connection. MariaDB's error numbers, PostgreSQL's
 * SQLSTATE, and the system's own.
 */
export function connectionProblemOf(
  error: unknown,
  { host, port, user, database }: Pick<ConnectedDatabase, 'host' | 'port' | 'user' | 'database'>,
): ConnectionProblem | null {
  const all = withCauses(error);
  const {
    code = '',
    errno = 0,
    message = '',
  } = all.find((each) => each.code !== undefined || each.errno !== undefined) ?? all[0] ?? {};
  const is = (...codes: string[]) => all.some((each) => codes.includes(each.code ?? ''));
  if (is('ENOTFOUND', 'EAI_AGAIN'))
    return new ConnectionProblem('host', `There is no host called ${host}. Check the name.`);
  if (errno === 1045 || errno === 1698 || code === '28P01' || (code === '28000' && !/SSL|encryption/i.test(message)))
    return new ConnectionProblem('password', `The database doesn't let ${user} in with this password.`);
  if (errno === 1049 || code === '3D000')
    return new ConnectionProblem('database', `There is no database called ${database}.`);
  if (errno === 1044 || code === '42501')
    return new ConnectionProblem('user', `${user} is known, but has no right to use ${database || 'this database'}.`);
  if (
    is(
      'DEPTH_ZERO_SELF_SIGNED_CERT',
      'SELF_SIGNED_CERT_IN_CHAIN',
      'UNABLE_TO_VERIFY_LEAF_SIGNATURE',
      'CERT_HAS_EXPIRED',
      'ERR_TLS_CERT_ALTNAME_INVALID',
      'HANDSHAKE_SSL_ERROR',
      'EPROTO',
    ) ||
    /\bSSL\b|\bTLS\b|certificate|encryption/i.test(message)
  ) {
    return new ConnectionProblem(
      'tls',
      /not support|does not|SERVER_DOES_NOT_SUPPORT_SSL/i.test(message)
        ? "The database doesn't offer encryption (TLS). Turn it on there, or connect without."
        : "The encrypted connection (TLS) failed: the certificate can't be trusted, or the database asks for " +
            'another way of encryption.',
    );
  }
  return all.some(isUnreachable) ? noDatabase({ host, port }) : null;
}

interface DriverError {
  name?: string;
  code?: string;
  errno?: number;
  message?: string;
  /** The statement, where the driver or Sequelize tells it. */
  sql?: string;
}

/** An error with all that it came of: Sequelize wraps the driver's, and drivers the system's. */
function withCauses(error: unknown): DriverError[] {
  const found: DriverError[] = [];
  for (let at = [error]; at.length > 0 && found.length < 20;) {
    const each = at.shift();
    if (typeof each !== 'object' || each === null || found.includes(each)) continue;
    found.push(each);
    const { parent, original, cause, errors } = each as {
      parent?: unknown;
      original?: unknown;
      cause?: unknown;
      errors?: unknown;
    };
    at = [...at, parent, original, cause, ...(Array.isArray(errors) ? errors : [])];
  }
  return found;
}

/**
 * Whether a write was lost with its connection while it was being kept, so that nobody here knows whether it was: as
 * the end of a transaction, or as a statement by itself. A node of a cluster that is parted from the others in that
 * moment says so with 1180; what it had sent them may be kept there.
 */
export function isOutcomeUnknown(error: unknown): boolean {
  if (error instanceof OutcomeUnknown) return true;
  const all = withCauses(error);
  return (
    !all.some((each) => each instanceof NotKept) &&
    all.some((each) => each.errno === 1180 || (writing.test(each.sql ?? '') && isUnreachable(each)))
  );
}

const writing = /^\s*(?:COMMIT|INSERT|UPDATE|DELETE|REPLACE)/i;

/**
 * Whether a database gave something up since others write the same, or since it could not catch up with the other nodes
 * of its cluster in time; nothing of it was kept. MariaDB: 1205 and 1213; PostgreSQL: 40001, 40P01 and 55P03.
 */
export function isContended(error: unknown): boolean {
  return withCauses(error).some(
    ({ code, errno }) => [1205, 1213].includes(errno ?? 0) || ['40001', '40P01', '55P03'].includes(code ?? ''),
  );
}

/**
 * The same words whether nothing listens, what listens says nothing, or it is something else: which of them it is, is
 * nobody's to find out by a form.
 */
export function noDatabase({ host, port }: Pick<ConnectedDatabase, 'host' | 'port'>): ConnectionProblem {
  return new ConnectionProblem(
    'host',
    `No database of this kind answers at ${host}, port ${port}. Check both, and whether this machine may reach it.`,
  );
}

/**
 * What the system and the drivers say where a connection can't be made, or ended (mariadb: 45012 and the like; pg:
 * texts without a code).
 */
function isUnreachable({ name = '', code = '', errno = 0, message = '' }: DriverError): boolean {
  return (
    unreachable.has(code) ||
    unreachableNumbers.has(errno) ||
    /^SequelizeConnection|^SequelizeHostNot/.test(name) ||
    new RegExp(
      'timeout expired|timed out|Connection terminated|connection lost|connection is closed|' +
        'socket has unexpectedly been closed',
      'i',
    ).test(message)
  );
}

/**
 * The system's codes; MariaDB's for a server that goes away (1053, 1077, 1927, 2002, 2003, 2006, 2013) and for a node
 * that is no part of its cluster (1047); PostgreSQL's class 08 and 57P01 to 57P03.
 */
const unreachable = new Set([
  'ECONNREFUSED',
  'ECONNRESET',
  'EPIPE',
  'ETIMEDOUT',
  'EHOSTUNREACH',
  'ENETUNREACH',
  'ECONNABORTED',
  'ENOENT',
  'ER_SOCKET_UNEXPECTED_CLOSE',
  'ER_CONNECTION_TIMEOUT',
  'ER_GET_CONNECTION_TIMEOUT',
  'ER_CMD_CONNECTION_CLOSED',
  'ER_SOCKET_TIMEOUT',
  '08000',
  '08001',
  '08003',
  '08004',
  '08006',
  '57P01',
  '57P02',
  '57P03',
]);

const unreachableNumbers = new Set([
  1047, 1053, 1077, 1927, 2002, 2003, 2006, 2013, 45009, 45012, 45013, 45026, 45028, 45029, 45034,
]);

/** Whether an error says that a source can't be reached, rather than that something is wrong with what was asked. */
export function isSourceAway(error: unknown): boolean {
  return (
    error instanceof SourceGone || connectionProblemOf(error, { host: '', port: 0, user: '', database: '' }) !== null
  );
}

/** Whether a disk is full: the system's codes, MariaDB's numbers, PostgreSQL's SQLSTATE. */
export function isDiskFull(error: unknown): boolean {
  return withCauses(error).some(
    ({ code, errno }) => ['ENOSPC', 'EDQUOT', '53100'].includes(code ?? '') || [1021, 1026, 1114].includes(errno ?? 0),
  );
}

/**
 * Whether a database stopped a statement because it ran too long: MariaDB's and MySQL's error numbers, PostgreSQL's
 * SQLSTATE.
 */
export function wasStopped(error: unknown): boolean {
  return withCauses(error).some(({ code, errno }) => errno === 1969 || errno === 3024 || code === '57014');
}
