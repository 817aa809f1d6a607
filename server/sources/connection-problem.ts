import type { ConnectedDatabase } from './connected';
import { SourceGone } from './gone';

/** Why a database can't be reached or used, as a sentence, and the field of the form that it is about. */
export class ConnectionProblem extends Error {
  constructor(
    readonly field: 'host' | 'port' | 'database' | 'user' | 'password' | 'tls' | null,
    sentence: string,
  ) {
    super(sentence);
  }
}

/** Says what an error of a driver means; null when it is not about the connection. MariaDB's error numbers, PostgreSQL's SQLSTATE, and the system's own. */
export function connectionProblemOf(error: unknown, { host, port, user, database }: Pick<ConnectedDatabase, 'host' | 'port' | 'user' | 'database'>): ConnectionProblem | null {
  const { code = '', errno = 0, message = '', cause } = error as { code?: string; errno?: number; message?: string; cause?: unknown };
  const inner = (cause ?? {}) as { code?: string };
  const system = [code, inner.code ?? ''];
  const is = (...codes: string[]) => codes.some((each) => system.includes(each));
  if (is('ENOTFOUND', 'EAI_AGAIN')) return new ConnectionProblem('host', `There is no host called ${host}. Check the name.`);
  if (is('ECONNREFUSED')) return new ConnectionProblem('port', `Nothing answers at ${host}, port ${port}. Check that the database runs and listens there.`);
  if (errno === 1045 || errno === 1698 || code === '28P01' || code === '28000' && !/SSL|encryption/i.test(message)) return new ConnectionProblem('password', `The database doesn't let ${user} in with this password.`);
  if (errno === 1049 || code === '3D000') return new ConnectionProblem('database', `There is no database called ${database}.`);
  if (errno === 1044 || code === '42501') return new ConnectionProblem('user', `${user} is known, but has no right to use ${database || 'this database'}.`);
  if (is('DEPTH_ZERO_SELF_SIGNED_CERT', 'SELF_SIGNED_CERT_IN_CHAIN', 'UNABLE_TO_VERIFY_LEAF_SIGNATURE', 'CERT_HAS_EXPIRED', 'ERR_TLS_CERT_ALTNAME_INVALID', 'HANDSHAKE_SSL_ERROR', 'EPROTO') || /\bSSL\b|\bTLS\b|certificate|encryption/i.test(message)) {
    return new ConnectionProblem('tls', /not support|does not|SERVER_DOES_NOT_SUPPORT_SSL/i.test(message) ? 'The database doesn\'t offer encryption (TLS). Turn it on there, or connect without.' : 'The encrypted connection (TLS) failed: the certificate can\'t be trusted, or the database asks for another way of encryption.');
  }
  if (is('ETIMEDOUT', 'EHOSTUNREACH', 'ENETUNREACH') || errno === 45012 || /timeout|timed out/i.test(message)) return new ConnectionProblem('host', `${host}, port ${port}, doesn't answer in time. A firewall may be in between.`);
  return null;
}

/** Whether an error says that a source can't be reached, rather than that something is wrong with what was asked. */
export function isSourceAway(error: unknown): boolean {
  return error instanceof SourceGone || connectionProblemOf(error, { host: '', port: 0, user: '', database: '' }) !== null;
}

/** Whether a database stopped a statement because it ran too long: MariaDB's and MySQL's error numbers, PostgreSQL's SQLSTATE. */
export function wasStopped(error: unknown): boolean {
  const { code, errno } = error as { code?: string; errno?: number };
  return errno === 1969 || errno === 3024 || code === '57014';
}
