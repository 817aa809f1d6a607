export const root: string;
/** Installs the Debian packages of the programs that are missing. Throws Advice where that fails. */
export function installPrograms(
  names: readonly ('mariadb' | 'dump' | 'postgresql' | 'chromium' | 'cluster' | 'copying')[],
): void;

/** Fetches the scripts by which a node of a cluster copies another; gives their folder. Throws Advice. */
export function unpackCopyScripts(): string;

/** A failure that the person can mend: its message says how. */
export class Advice extends Error {}
