import { exportToFile } from '../exports/export-job';
import { checkImport, doImport, makeFromFile, readThrough } from '../imports/import-jobs';
import type { JobContext } from './run-job';

/** Every kind of long work, by the name that the job keeps. */
export const jobKinds: Record<string, (context: JobContext) => Promise<unknown>> = {
  'read a file': readThrough,
  'table from a file': makeFromFile,
  'look at an import': checkImport,
  import: doImport,
  export: exportToFile,
};
