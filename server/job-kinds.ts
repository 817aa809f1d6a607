import { actJob, actOrder } from './actions/act-job';
import { exportOrder, exportToFile } from './exports/export-job';
import { bringInput, lookInput, readInput, tableInput } from './imports/import-inputs';
import { checkImport, doImport, makeFromFile, readThrough } from './imports/import-jobs';
import { bringFromAddress, bringKind, bringOrder } from './brought/bring-job';
import { jobKind, type JobKinds } from './jobs/run-job';
import { invitationOrder } from './people/invitations';
import { sendInvitations } from './people/invite-job';
import { refresh, refreshInput } from './people/refresh-job';
import { proofOrder, proofRun } from './review/proof-run';
import { rehearsalInput, rehearse } from './review/rehearsal';
import { changeReport, changeReportInput } from './versions/change-report';

/** Every kind of long work, by the name that the job keeps. */
export const jobKinds: JobKinds = {
  'read a file': jobKind(readInput, readThrough),
  'table from a file': jobKind(tableInput, makeFromFile),
  'look at an import': jobKind(lookInput, checkImport),
  import: jobKind(bringInput, doImport),
  export: jobKind(exportOrder, exportToFile),
  'do an action': jobKind(actOrder, actJob),
  'refresh the members': jobKind(refreshInput, refresh),
  'send invitations': jobKind(invitationOrder, sendInvitations),
  'change report': jobKind(changeReportInput, changeReport),
  [bringKind]: jobKind(bringOrder, bringFromAddress),
  'proof run': jobKind(proofOrder, proofRun),
  rehearsal: jobKind(rehearsalInput, rehearse),
};
