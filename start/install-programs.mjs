// Installs the Debian packages of the programs that its arguments name, where they are missing: beside other work.
import { faultWords } from './fault.mjs';
import { Advice, installPrograms } from './install.mjs';

try {
  installPrograms(process.argv.slice(2));
} catch (error) {
  console.error(error instanceof Advice ? error.message : faultWords(error));
  process.exitCode = 1;
}
