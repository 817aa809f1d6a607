import type { ChildProcess } from 'node:child_process';
import { mkdir, mkdtemp, rm } from 'node:fs/promises';
import { dirname, join } from 'node:path';
import { Advice } from '../core/refusals/advice';

/** Programs that work for us now. */
const working = new Set<ChildProcess>();

/**
 * Works in a folder that is nobody else's, beside what is to be made, from where it is moved to its place whole; the
 * folder is gone afterwards. A signal to stop ends the programs that work for us, and with them the work in order.
 */
export async function inFolderBeside<T>(target: string, work: (folder: string) => Promise<T>): Promise<T> {
  const stop = () => void [...working].forEach((child) => child.kill());
  const signals = ['SIGINT', 'SIGTERM'] as const;
  for (const signal of signals) process.on(signal, stop);
  let folder: string | null = null;
  try {
    folder = await makeBeside(target);
    return await work(folder);
  } finally {
    if (folder) await rm(folder, { recursive: true, force: true });
    for (const signal of signals) process.off(signal, stop);
  }
}

async function makeBeside(target: string): Promise<string> {
  try {
    await mkdir(dirname(target), { recursive: true });
    return await mkdtemp(join(dirname(target), '.stone-porch-'));
  } catch (error) {
    throw new Advice(`${dirname(target)} can't be written: ${(error as Error).message}`);
  }
}

/** The end of a program; throws with what it said where that is none in order. */
export function endOf(child: ChildProcess, program: string): Promise<void> {
  let said = '';
  working.add(child);
  child.once('close', () => working.delete(child));
  child.stderr?.on('data', (part: Buffer) => (said += part.toString().slice(0, 2000)));
  return new Promise((done, failed) => {
    child.once('error', failed);
    child.once('close', (code) =>
      code === 0 ? done() : failed(new Error(`${program} ended with ${code ?? 'a signal'}: ${said.trim()}`)),
    );
  });
}
