import type { ChildProcess } from 'node:child_process';

/** Asks a process to end; resolves when it is gone. One that isn't after `patience` milliseconds is killed. */
export async function endOf(child: ChildProcess, patience?: number): Promise<void> {
  if (child.exitCode !== null || child.signalCode !== null) return;
  const gone = new Promise((resolve) => child.once('exit', resolve));
  child.kill('SIGTERM');
  const kill = patience === undefined ? undefined : setTimeout(() => child.kill('SIGKILL'), patience);
  await gone;
  clearTimeout(kill);
}
