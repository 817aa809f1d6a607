export const databaseKinds = ['mariadb', 'postgresql'] as const;
export const tlsModes = ['off', 'on', 'verified'] as const;

/** A database that a builder connected: how to reach it, password and all. Never sent to a browser. */
export interface ConnectedDatabase {
  kind: (typeof databaseKinds)[number];
  host: string;
  port: number;
  /** The database to sign in to; of MariaDB the schema stands for it. */
  database: string;
  user: string;
  password: string;
  /** `on` encrypts, `verified` also asks for a certificate that this machine trusts. */
  tls: (typeof tlsModes)[number];
}

/** What the drivers take for TLS. */
export function tlsOption(tls: ConnectedDatabase['tls']): false | { rejectUnauthorized: boolean } {
  return tls === 'off' ? false : { rejectUnauthorized: tls === 'verified' };
}
