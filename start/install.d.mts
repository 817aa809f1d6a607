export const root: string;
/** Installs the Debian packages of the programs that are missing. Throws Advice where that fails. */
export function installPrograms(names: readonly ('mariadb' | 'dump' | 'postgresql' | 'chromium')[]): void;

/** A failure that the person can mend: its message says how. */
export class Advice extends Error {}
