import Joi from 'joi';
import { NotFound } from '../gate/gate';
import { endpoint, type Entry } from '../http/endpoint';
import { jobState } from '../jobs/job-answers';
import type { JobOwner, Jobs } from '../jobs/jobs';
import { beginExport } from '../records/export-endpoints';
import { text } from '../records/record-question';
import type { PortalVisit } from '../visits/member-visit';
import { sectionFor } from './page-endpoints';

interface Asked {
  view?: string;
  columns?: string;
  search: string;
  filter: string;
  sort?: string;
}

/** What is found in a section of a page, as a spreadsheet. */
export function sheetEndpoints(entry: Entry<{ visit: PortalVisit; owner: JobOwner }>, jobs: Jobs) {
  return {
    sheetOfPage: endpoint({
      method: 'POST',
      path: '/pages/:page/:section/sheet',
      says: 'Begins a job that keeps the records of a section as a spreadsheet, as they are found and sorted there.',
      entry,
      body: Joi.object<Asked>({
        view: text(60),
        columns: text(8000),
        search: text(200).default(''),
        filter: text(8000).default(''),
        sort: text(1000),
      }),
      answers: { 202: jobState },
      does: async ({ visit, owner, params, body }) => {
        const found = sectionFor(visit, params);
        if (!found?.serves.takenOut) throw new NotFound('page');
        const taken = await found.serves.takenOut(visit, found.section, { ...body, size: 1 });
        const { portalId, name, email } = visit;
        const there = { ...taken.visit, portalId, name, email };
        return beginExport(jobs, owner, there, taken.table, taken.question, {
          format: 'xlsx',
          guard: true,
          called: Object.fromEntries(taken.called),
          // Without what file systems, or sheets, don't take in a name.
          name:
            found.page.title
              .replaceAll(/[^\p{L}\p{N} ._-]/gu, ' ')
              .slice(0, 80)
              .trim() || taken.table,
        });
      },
    }),
  };
}
