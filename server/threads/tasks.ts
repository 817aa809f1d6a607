import { readDefinition } from '../../sections/definition';
import { DefinitionError } from '../../core/definition/read';
import type { PortalDefinition } from '../../core/definition/definition';
import { FileProblem } from '../formats/file-problem';
import { readScript } from '../formats/sql-script';
import type { ScriptDialect } from '../formats/script-node';
import type { Script } from '../../core/table/script';

export type Task = { what: 'definition'; text: string } | { what: 'script'; text: string; dialect: ScriptDialect };

/** Errors don't pass between threads with their kind, so they are told as data. */
export type Told =
  | { what: 'definition'; definition: PortalDefinition }
  | { what: 'definition faults'; faults: DefinitionError['faults'] }
  | { what: 'script'; script: Script }
  | { what: 'file problem'; message: string };

/** Does a task in the thread. */
export default function doTask(task: Task): Told {
  try {
    return task.what === 'definition'
      ? { what: 'definition', definition: readDefinition(JSON.parse(task.text)) }
      : { what: 'script', script: readScript(task.text, task.dialect) };
  } catch (error) {
    if (error instanceof DefinitionError) return { what: 'definition faults', faults: error.faults };
    if (error instanceof FileProblem) return { what: 'file problem', message: error.message };
    throw error;
  }
}
