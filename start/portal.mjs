// npm run portal: the command line. `--help` lists what there is.
import { faultWords } from './fault.mjs';
import { bundledServer } from './bundle.mjs';

try {
  await import(`${await bundledServer()}/portal.mjs`);
} catch (error) {
  console.error(
    error?.code === 'ERR_MODULE_NOT_FOUND'
      ? 'What this needs is not installed yet. Run npm start -- --setup once.'
      : faultWords(error),
  );
  process.exitCode = 1;
}
