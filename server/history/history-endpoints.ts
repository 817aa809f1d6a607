import Joi from 'joi';
import { openDraft, type BenchServices } from '../bench/bench';
import { form, whole } from '../http/answers';
import { endpoint, type Entry } from '../http/endpoint';
import { writeAudit } from '../audit/audit';
import type { PortalVisit } from '../visits/member-visit';
import { eraseHistory, historyOf, historyTold } from './record-history';

/** What changed in records, read by those who may. */
export function historyEndpoints(entry: Entry<{ visit: PortalVisit }>) {
  return {
    history: endpoint({
      method: 'GET',
      path: '/records/:table/:id/history',
      says: 'What changed in a record, the newest first: as far as it is yours to read now and was then.',
      entry,
      query: Joi.object<{ skip: number }>({ skip: Joi.number().integer().min(0).max(3000).default(0) }),
      answers: { 200: historyTold },
      does: ({ visit, params: { table, id }, query: { skip } }) => historyOf(visit, table, id, skip),
    }),
  };
}

/** What builders do with the histories of records. */
export function historyBenchEndpoints(services: BenchServices) {
  return {
    eraseHistory: endpoint({
      method: 'DELETE',
      path: '/tables/:table/records/:id/history',
      says: 'Erases what stood in a record before each change of it; who changed it and when stays.',
      entry: openDraft(services),
      personal: true,
      answers: { 200: form<{ erased: number }>({ erased: whole }) },
      does: async ({ draft, signed, params: { table, id } }) => {
        const erased = await eraseHistory(draft.portal.id, table, id);
        if (erased > 0) await writeAudit(draft.portal.id, signed, 'erased a history', `${table}, record ${id}`);
        return { erased };
      },
    }),
  };
}
