import type { Section } from '../../core/definition/section-kinds';
import Joi from 'joi';
import { pagesFor } from '../../core/access/audience';
import type { Page } from '../../core/definition/definition';
import { serveOf, sectionServes } from '../../sections/serves';
import type { FigureTaken, SectionInfo } from '../../sections/serve';
import { NotFound, type PlacedVisit } from '../gate/gate';
import type { Value } from '../../core/table/value';
import { cell, form, listOf, said, saidOrNull, whole } from '../http/answers';
import { endpoint, type Entry } from '../http/endpoint';
import { listAnswer } from '../records/record-answers';
import { listQuery } from '../records/record-question';
import type { PortalVisit } from '../visits/member-visit';

/** A page as a person gets it. */
export interface PageInfo {
  id: string;
  title: string;
  intro: string;
  sections: SectionInfo[];
}

const sectionInfos = Object.entries(sectionServes).map(([kind, { told }]) =>
  form<{ id: string; kind: string; title?: string }>({
    id: said,
    kind: Joi.valid(kind),
    title: said.optional(),
    ...(told as Record<never, Joi.Schema>),
  }),
);

/** What a person is told of the portal and of themselves: their roles by name, their pages. */
export interface Me {
  portal: { slug: string; name: string; colour: string; timeZone: string };
  member: { name: string; email: string | null; roles: string[] };
  pages: PageInfo[];
}

const me = form<Me>({
  portal: form<Me['portal']>({ slug: said, name: said, colour: said, timeZone: said }),
  member: form<Me['member']>({ name: said, email: saidOrNull, roles: listOf(said) }),
  pages: listOf(form<PageInfo>({ id: said, title: said, intro: said, sections: Joi.array().items(...sectionInfos) })),
});

const takenNumber = Joi.alternatives().try(
  form<{ tooFew: true }>({ tooFew: Joi.valid(true) }),
  form<{ number: Value; leftOut: number }>({ number: cell, leftOut: whole }),
);

/** A section of a page that is for the person; undefined for every other. */
const sectionFor = (visit: PortalVisit, asked: { page: string; section: string }): Section | undefined =>
  pagesFor(visit)
    .find((page) => page.id === asked.page)
    ?.sections.find((each) => each.id === asked.section);

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
        const { slug, name, colour, timeZone } = visit.definition.portal;
        return {
          portal: { slug, name, colour, timeZone },
          member: {
            name: visit.name,
            email: visit.email,
            roles: visit.definition.roles
              .filter((role) => visit.person.roles.includes(role.id))
              .map((role) => role.name),
          },
          pages: await Promise.all(pagesFor(visit).map((page) => pageInfo(visit, page))),
        };
      },
    }),
    listOfPage: endpoint({
      method: 'GET',
      path: '/pages/:page/:section',
      says: 'The records of a section that lists some, found, filtered and sorted.',
      entry,
      query: listQuery,
      answers: { 200: listAnswer },
      does: async ({ visit, params, query }) => {
        const section = sectionFor(visit, params);
        const listed = section && serveOf(section).list;
        if (!listed) throw new NotFound('page');
        return listed(visit, section, query);
      },
    }),
    figureOfPage: endpoint({
      method: 'GET',
      path: '/pages/:page/:section/figure',
      says: 'The number of a section that has one, over what the person sees now.',
      entry,
      answers: { 200: form<FigureTaken>({ taken: takenNumber, against: takenNumber.allow(null) }) },
      does: async ({ visit, params }) => {
        const section = sectionFor(visit, params);
        const figure = section && serveOf(section).figure;
        if (!figure) throw new NotFound('figure');
        return figure(visit, section);
      },
    }),
  };
}

async function pageInfo(visit: PlacedVisit, { id, title, intro, sections }: Page): Promise<PageInfo> {
  const told = async (section: Section) => ({
    id: section.id,
    kind: section.kind,
    ...(section.title === undefined ? {} : { title: section.title }),
    ...(await serveOf(section).tell(visit, section)),
  });
  return { id, title, intro, sections: (await Promise.all(sections.map(told))) as SectionInfo[] };
}
