import { exportToFile } from './exports/export-job';
import { checkImport, doImport, makeFromFile, readThrough } from './imports/import-jobs';
import type { JobKinds } from './jobs/run-job';

/** Every kind of long work, by the name that the job keeps. */
export const jobKinds: JobKinds = {
  'read a file': readThrough,
  'table from a file': makeFromFile,
  'look at an import': checkImport,
  import: doImport,
  export: exportToFile,
};
