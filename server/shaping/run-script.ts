import {
  InvalidValues,
  beginScript,
  createScriptTables,
  dropScript,
  keepScript,
  putScriptRows,
  relateLater,
  ScriptRowsRefused,
} from '../gate/gate';
import type { Catalogue } from '../../core/table/catalogue';
import type { Script } from '../../core/table/script';
import type { Source } from '../sources/source';
import { FileProblem } from '../formats/file-problem';

/**
 * Makes the tables of a script and puts its rows in, in its order: all of it, or nothing. Without `apply` the database
 * does the same under other names and drops it again, so that whatever it would refuse is known at the look.
 */
export async function runScript(
  source: Source,
  catalogue: Catalogue,
  script: Script,
  apply: boolean,
): Promise<{ tables: string[]; rows: number }> {
  const making = beginScript(source, catalogue, script);
  let rows = 0;
  // What stands in the way of dropping never hides what went wrong first; what stays under its hidden name goes at the
  // next start.
  const drop = () => dropScript(making).catch(() => undefined);
  try {
    await createScriptTables(making);
    for (const part of script.rows) {
      await putScriptRows(making, part).catch((error: unknown) => {
        throw inLine(error, part.table, part.line);
      });
      rows += part.values.length;
    }
    await (apply ? keepScript(making) : relateLater(making));
  } catch (error) {
    await drop();
    throw error instanceof ScriptRowsRefused
      ? new FileProblem(`The rows of the script don't belong together: ${error.reason}.`)
      : error;
  }
  if (!apply) await drop();
  return { tables: script.tables.map((table) => table.name), rows };
}

function inLine(error: unknown, table: string, line: number): unknown {
  if (error instanceof InvalidValues)
    return new FileProblem(`Line ${line}, rows of ${table}: ${Object.values(error.fields).join(' ')}`);
  return error instanceof ScriptRowsRefused
    ? new FileProblem(
        `Line ${line}, rows of ${table}: ${error.row === null ? 'they' : `row ${error.row}`} can't be kept: ` +
          `${error.reason}.`,
      )
    : error;
}
