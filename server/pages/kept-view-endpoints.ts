import Joi from 'joi';
import { rolesOn } from '../../core/check/page-roles';
import type { ListSection } from '../../sections/list/spec';
import { NotFound } from '../gate/gate';
import { form, listOf, said, whole, yesNo } from '../http/answers';
import { endpoint, ownNumber, reply, type Entry } from '../http/endpoint';
import { text } from '../records/record-question';
import type { PortalVisit } from '../visits/member-visit';
import { emailAddress } from '../mail/email-schema';
import { dropView, keepView, viewsOf, type KeptViewTold, type ListStanding, type ViewPlace } from './kept-views';
import { sectionFor } from './page-endpoints';

const standing = Joi.object<ListStanding>({
  view: text(60).required(),
  columns: text(4000).required(),
  search: text(200).trim().required(),
  filter: text(8000).required(),
  sort: text(1000).required(),
  chart: text(500).default(''),
});

const viewBody = Joi.object<{ name: string; roles: string[]; people: string[]; standing: ListStanding }>({
  // Others read it: nothing in it hides, or turns what stands beside it round.
  name: Joi.string()
    .trim()
    .min(1)
    .max(60)
    .pattern(/^[^\p{Cc}\u202a-\u202e\u2066-\u2069]*$/u, 'plain text')
    .required(),
  roles: Joi.array().items(Joi.string().max(40)).unique().max(100).required(),
  people: Joi.array().items(emailAddress).max(50).default([]),
  standing: standing.required(),
});

interface Views {
  views: KeptViewTold[];
  /** With whom this person may share one; null where they may not. */
  shareWith: { id: string; name: string }[] | null;
}

const views = form<Views>({
  views: listOf(
    form<KeptViewTold>({
      id: whole,
      name: said,
      mine: yesNo,
      roles: listOf(said),
      people: listOf(said),
      standing: form<ListStanding>({
        view: said,
        columns: said,
        search: said,
        filter: said,
        sort: said,
        chart: said,
      }).allow(null),
    }),
  ),
  shareWith: listOf(form<{ id: string; name: string }>({ id: said, name: said })).allow(null),
});

/** The list of the address, and the roles that get it. */
function listAt(visit: PortalVisit, params: { page: string; section: string }): ViewPlace & { receivers: string[] } {
  const found = sectionFor(visit, params);
  if (found?.section.kind !== 'list') throw new NotFound('list');
  const { page, section } = found;
  return {
    portalId: visit.portalId,
    page: page.id,
    section: section as ListSection,
    receivers: rolesOn(page, section, visit.definition),
  };
}

/** Views of a list that members keep under a name, for themselves or for those with whom they share them. */
export function keptViewEndpoints(entry: Entry<{ visit: PortalVisit }>) {
  const answered = async (visit: PortalVisit, place: ReturnType<typeof listAt>): Promise<Views> => ({
    views: await viewsOf(visit, place),
    shareWith: place.section.shares?.some((role) => visit.person.roles.includes(role))
      ? visit.definition.roles.filter(({ id }) => place.receivers.includes(id)).map(({ id, name }) => ({ id, name }))
      : null,
  });
  return {
    keptViews: endpoint({
      method: 'GET',
      path: '/pages/:page/:section/views',
      says: 'The views of a list that you keep, and those that are shared with you.',
      entry,
      answers: { 200: views },
      does: ({ visit, params }) => answered(visit, listAt(visit, params)),
    }),
    keepView: endpoint({
      method: 'POST',
      path: '/pages/:page/:section/views',
      says: 'Keeps how a list stands under a name, shared with `roles` and the addresses of `people`.',
      entry,
      body: viewBody,
      answers: { 201: form<{ id: number }>({ id: whole }) },
      does: async ({ visit, params, body }) => {
        const place = listAt(visit, params);
        return reply(201, { id: await keepView(visit, place, body, place.receivers, null) });
      },
    }),
    changeView: endpoint({
      method: 'PUT',
      path: '/pages/:page/:section/views/:kept',
      says: 'Writes over a view that you keep.',
      entry,
      params: { kept: ownNumber },
      body: viewBody,
      answers: { 200: form<{ id: number }>({ id: whole }) },
      does: async ({ visit, params, body }) => {
        const place = listAt(visit, params);
        return { id: await keepView(visit, place, body, place.receivers, params.kept) };
      },
    }),
    dropView: endpoint({
      method: 'DELETE',
      path: '/pages/:page/:section/views/:kept',
      says: 'Takes out a view that you keep, also for those with whom it is shared.',
      entry,
      params: { kept: ownNumber },
      answers: { 204: null },
      does: async ({ visit, params }) => {
        if (!(await dropView(visit, listAt(visit, params), params.kept))) throw new NotFound('view');
      },
    }),
  };
}
