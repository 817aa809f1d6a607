import { pageIcons, type PageIcon } from '../../core/definition/page-icons';
import { refreshPeriods, sectionWidths, type Section } from '../../core/definition/section-kinds';
import Joi from 'joi';
import { pageFor, pagesFor } from '../../core/access/audience';
import type { Person } from '../../core/access/person';
import { lookOf, type Look } from '../../core/face/look';
import type { Page } from '../../core/definition/definition';
import { serveOf, sectionServes } from '../../sections/serves';
import type { Counts, FigureTaken, SectionInfo, Totals } from '../../sections/serve';
import { actionsTold, actionTold, type ActionTold } from '../actions/action-told';
import { NotFound, type PlacedVisit } from '../gate/gate';
import type { Value } from '../../core/table/value';
import { cell, form, listOf, said, saidOrNull, whole, yesNo } from '../http/answers';
import { endpoint, type Entry } from '../http/endpoint';
import { offersWrites } from '../records/offered';
import { figureAnswer, sectionAnswer } from '../records/record-answers';
import { exportedFile, sendExport, takenOutQuery } from '../records/export-endpoints';
import { logExport } from '../records/log-export';
import { sectionQuery, text } from '../records/record-question';
import type { Narrowed } from '../records/section-numbers';
import { lookTold } from './look-answers';
import type { PortalVisit } from '../visits/member-visit';

/** A page as a person gets it. */
export interface PageInfo {
  id: string;
  title: string;
  intro: string;
  /** Whether it stands among the pages; else it is only led to. */
  listed: boolean;
  icon: PageIcon | null;
  sections: SectionInfo[];
}

const sectionInfos = Object.entries(sectionServes).map(([kind, { told }]) =>
  form<{ id: string; kind: string; title?: string; width?: string; refresh?: number }>({
    id: said,
    kind: Joi.valid(kind),
    title: said.optional(),
    width: Joi.valid(...sectionWidths).optional(),
    refresh: Joi.valid(...refreshPeriods).optional(),
    ...(told as Record<never, Joi.Schema>),
  }),
);

/** What a person is told of the portal and of themselves: their roles by name, their pages. */
export interface Me {
  portal: { slug: string; name: string; timeZone: string; look: Look };
  member: { kind: Person['kind']; name: string; email: string | null; roles: string[] };
  pages: PageInfo[];
  /** What they may do with records by a press. */
  actions: ActionTold[];
}

const me = form<Me>({
  portal: form<Me['portal']>({ slug: said, name: said, timeZone: said, look: lookTold }),
  member: form<Me['member']>({
    kind: Joi.valid('member', 'visitor', 'service', 'builder'),
    name: said,
    email: saidOrNull,
    roles: listOf(said),
  }),
  pages: listOf(
    form<PageInfo>({
      id: said,
      title: said,
      intro: said,
      listed: yesNo,
      icon: Joi.valid(...pageIcons).allow(null),
      sections: Joi.array().items(...sectionInfos),
    }),
  ),
  actions: listOf(actionTold),
});

const takenNumber = Joi.alternatives().try(
  form<{ tooFew: true }>({ tooFew: Joi.valid(true) }),
  form<{ number: Value; leftOut: number }>({ number: cell, leftOut: whole }),
);

/** A section of a page that is for the person, with its page; null for every other. */
export function sectionFor(
  visit: PortalVisit,
  asked: { page: string; section: string },
): { page: Page; section: Section; serves: ReturnType<typeof serveOf> } | null {
  const page = pageFor(visit, asked.page);
  const section = page?.sections.find(({ id }) => id === asked.section);
  return page && section ? { page, section, serves: serveOf(section) } : null;
}

/** How the list stands that a section goes with. */
const narrowed = {
  view: text(60).default(''),
  filter: text(8000).default(''),
  search: text(200).trim().default(''),
};
const narrowedQuery = Joi.object<Narrowed>(narrowed);

/** The pages of a portal as one person gets them; what is not for them is not told. */
export function pageEndpoints(entry: Entry<{ visit: PortalVisit }>) {
  return {
    me: endpoint({
      method: 'GET',
      path: '/me',
      says: 'The portal, who is signed in there, and the pages that are for them.',
      entry,
      answers: { 200: me },
      does: async ({ visit }) => {
        const { slug, name, timeZone } = visit.definition.portal;
        return {
          portal: { slug, name, timeZone, look: lookOf(visit.definition.portal) },
          member: {
            kind: visit.person.kind,
            name: visit.name,
            email: visit.email,
            roles: visit.definition.roles
              .filter((role) => visit.person.roles.includes(role.id))
              .map((role) => role.name),
          },
          pages: await Promise.all(pagesFor(visit).map((page) => pageInfo(visit, page))),
          actions: offersWrites(visit) ? await actionsTold(visit) : [],
        };
      },
    }),
    listOfPage: endpoint({
      method: 'GET',
      path: '/pages/:page/:section',
      says: 'The records of a section that lists some, found, filtered and sorted.',
      entry,
      assumes: true,
      query: sectionQuery,
      answers: { 200: sectionAnswer },
      does: async ({ visit, params, query }) => {
        const found = sectionFor(visit, params);
        if (!found?.serves.list) throw new NotFound('page');
        return found.serves.list(visit, found.section, query);
      },
    }),
    takeOut: endpoint({
      method: 'GET',
      path: '/pages/:page/:section/file',
      says: 'The records of a section as a file, as they are found and sorted there.',
      entry,
      query: takenOutQuery,
      answers: { 200: exportedFile },
      does: async ({ visit, params, query: { format, guard, ...query }, res }) => {
        const found = sectionFor(visit, params);
        if (!found?.serves.takenOut) throw new NotFound('page');
        const { visit: there, ...taken } = await found.serves.takenOut(visit, found.section, { ...query, size: 1 });
        const called = format === 'csv' ? taken.called : undefined;
        const begun = () => logExport(visit, taken.table, format);
        await sendExport(res, there, taken.table, taken.question, { format, guard, begun }, called);
      },
    }),
    figureOfPage: endpoint({
      method: 'GET',
      path: '/pages/:page/:section/figure',
      says: 'The number of a section that has one, over what the person sees now.',
      entry,
      query: narrowedQuery,
      answers: { 200: form<FigureTaken>({ taken: takenNumber, against: takenNumber.allow(null) }) },
      does: async ({ visit, params, query }) => {
        const found = sectionFor(visit, params);
        if (!found?.serves.figure) throw new NotFound('figure');
        return found.serves.figure(visit, found.section, found.page, query);
      },
    }),
    totalsOfPage: endpoint({
      method: 'GET',
      path: '/pages/:page/:section/totals',
      says: 'The sums below the columns of a section that has some, over all that it holds.',
      entry,
      query: narrowedQuery,
      answers: {
        200: form<Totals>({
          totals: listOf(form<Totals['totals'][number]>({ column: said, number: cell, leftOut: whole })),
        }),
      },
      does: async ({ visit, params, query }) => {
        const found = sectionFor(visit, params);
        if (!found?.serves.totals) throw new NotFound('page');
        return found.serves.totals(visit, found.section, query);
      },
    }),
    countsOfPage: endpoint({
      method: 'GET',
      path: '/pages/:page/:section/counts',
      says: 'How many records each tab of a section holds that has some.',
      entry,
      answers: { 200: form<Counts>({ counts: listOf(form<Counts['counts'][number]>({ tab: said, count: whole })) }) },
      does: async ({ visit, params }) => {
        const found = sectionFor(visit, params);
        if (!found?.serves.counts) throw new NotFound('page');
        return found.serves.counts(visit, found.section);
      },
    }),
    chartOfPage: endpoint({
      method: 'GET',
      path: '/pages/:page/:section/chart',
      says: 'Numbers by groups, of a section that draws some or of a list by what `draw` says, over what is seen now.',
      entry,
      query: Joi.object<Narrowed & { draw: string }>({ ...narrowed, draw: text(500).default('') }),
      answers: { 200: figureAnswer },
      does: async ({ visit, params, query }) => {
        const found = sectionFor(visit, params);
        if (!found?.serves.chart) throw new NotFound('chart');
        return found.serves.chart(visit, found.section, found.page, query);
      },
    }),
  };
}

async function pageInfo(visit: PlacedVisit, page: Page): Promise<PageInfo> {
  const { id, title, intro, sections, unlisted, icon = null } = page;
  const told = async (section: Section) => ({
    id: section.id,
    kind: section.kind,
    ...(section.title === undefined ? {} : { title: section.title }),
    ...(section.width === undefined ? {} : { width: section.width }),
    ...(section.refresh === undefined ? {} : { refresh: section.refresh }),
    ...(await serveOf(section).tell(visit, section, page)),
  });
  const listed = unlisted !== true;
  return { id, title, intro, listed, icon, sections: (await Promise.all(sections.map(told))) as SectionInfo[] };
}
