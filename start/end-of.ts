import type { ChildProcess } from 'node:child_process';

/** Asks a process to end; resolves when it is gone. */
export async function endOf(child: ChildProcess): Promise<void> {
  if (child.exitCode !== null || child.signalCode !== null) return;
  const gone = new Promise((resolve) => child.once('exit', resolve));
  child.kill('SIGTERM');
  await gone;
}
