import { readDefinition } from '../../sections/definition';
import { Piscina } from 'piscina';
import { DefinitionError } from '../../core/definition/read';
import type { PortalDefinition } from '../../core/definition/definition';
import { FileProblem } from '../formats/file-problem';
import type { Script } from '../../core/table/script';
import type { ScriptDialect } from '../formats/script-node';
import type { Told, Task } from './tasks';

/**
 * Computing on what a person sent that could take longer than others should wait: in a thread beside the server, one
 * for each core but the first.
 */
const pool = new Piscina<Task, Told>({
  filename: new URL('./thread.mjs', import.meta.url).href,
  minThreads: 0,
  maxThreads: 1,
  idleTimeout: 30_000,
  maxQueue: 50,
  resourceLimits: { maxOldGenerationSizeMb: 512 },
});

/** Larger definitions are read aside. */
const largeDefinition = 150_000;

/** As `readDefinition`. */
export async function readDefinitionAside(input: unknown): Promise<PortalDefinition> {
  const text = JSON.stringify(input);
  if (text === undefined || text.length <= largeDefinition) return readDefinition(input);
  const told = await pool.run({ what: 'definition', text });
  if (told.what === 'definition faults') throw new DefinitionError(told.faults);
  return (told as Extract<Told, { what: 'definition' }>).definition;
}

/** As `readScript`. */
export async function readScriptAside(text: string, dialect: ScriptDialect): Promise<Script> {
  const told = await pool.run({ what: 'script', text, dialect });
  if (told.what === 'file problem') throw new FileProblem(told.message);
  return (told as Extract<Told, { what: 'script' }>).script;
}
