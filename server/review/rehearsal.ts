import Joi from 'joi';
import { pagesFor } from '../../core/access/audience';
import type { KnownPerson } from '../../core/access/people';
import { Problem } from '../../core/refusals/problem';
import type { Page } from '../../core/definition/definition';
import type { Section } from '../../core/definition/section-kinds';
import { serveOf } from '../../sections/serves';
import type { PlacedVisit } from '../gate/gate';
import type { JobContext } from '../jobs/run-job';
import { sectionQuery } from '../records/record-question';
import { Portal } from '../store/models';
import { asEverybody } from './as-everybody';

/** Some of the people, and how many there are in all. */
export interface Named {
  count: number;
  first: { id: number | null; name: string }[];
}

/** How a page would be for everybody who gets it. */
export interface RehearsedPage {
  id: string;
  title: string;
  gets: Named;
  /** None of its sections that list records has one. */
  empty: Named;
  /** A section can't be asked; the words of the first. */
  stuck: Named & { why: string | null };
}

/** What everybody would find, were the draft published now. */
export interface Rehearsal {
  people: number;
  pages: RehearsedPage[];
  /** They would get no page at all. */
  without: Named;
  /** They would get pages, each of them empty. */
  onlyEmpty: Named;
}

/** A rehearsal is of the draft, as it is when the job is done. */
export const rehearsalInput = Joi.object<Record<string, never>>({});

/** So many are looked as at once. */
const atOnce = 4;
const namedAtMost = 200;

/** Opens every page as everybody who would get it, by the same ways as they would, and notes what is not there. */
export async function rehearse({ services, job, progress }: JobContext): Promise<Rehearsal> {
  const portal = await Portal.findByPk(job.portalId, { rejectOnEmpty: true });
  const definition = await services.definitions.draft(portal);
  const { people, visitOf } = await asEverybody(services, job, definition);
  const notes = new Notes(definition.pages);
  for (let from = 0; from < people.length; from += atOnce) {
    await progress(from, people.length);
    const some = people.slice(from, from + atOnce);
    await Promise.all(
      some.map(async (known) => {
        const visit = visitOf(known);
        const found = [];
        for (const page of pagesFor(visit)) found.push({ page, ...(await lookAt(visit, page)) });
        notes.add(known, found);
      }),
    );
  }
  return notes.told(people.length);
}

/** What somebody finds on a page. */
interface Found {
  isEmpty: boolean;
  /** Why a section can't be asked. */
  stuck: string | null;
}

async function lookAt(visit: PlacedVisit, page: Page): Promise<Found> {
  const listing = page.sections.filter((section) => serveOf(section).list !== undefined);
  let stuck: string | null = null;
  let isEmpty = listing.length > 0;
  for (const section of listing) {
    try {
      if (isEmpty && (await holdsSome(visit, section))) isEmpty = false;
    } catch (error) {
      if (!(error instanceof Problem)) throw error;
      // A list that has no tab for them, say, is not there for them.
      if (error.status !== 404) stuck ??= error.message;
    }
  }
  return { isEmpty: isEmpty && stuck === null, stuck };
}

const asked = sectionQuery.validate({ size: 1 }).value!;

/** Whether a section holds a record, in any of its tabs. */
async function holdsSome(visit: PlacedVisit, section: Section): Promise<boolean> {
  const serves = serveOf(section);
  const tabs = serves.counts ? (await serves.counts(visit, section)).counts : [];
  if (tabs.length > 0) return tabs.some(({ count }) => count > 0);
  return (await serves.list!(visit, section, { ...asked, view: '' })).records.length > 0;
}

class Names {
  private readonly all: KnownPerson[] = [];
  add = (person: KnownPerson): unknown => this.all.push(person);
  told = (): Named => ({
    count: this.all.length,
    first: this.all
      // The visitor, who is nobody among them, first.
      .toSorted((a, b) => Number(a.id !== null) - Number(b.id !== null) || a.name.localeCompare(b.name))
      .slice(0, namedAtMost)
      .map(({ id, name }) => ({ id, name })),
  });
}

/** What was found, put together by page. */
class Notes {
  private readonly pages: Map<string, { title: string; gets: Names; empty: Names; stuck: Names; why: string | null }>;
  private readonly without = new Names();
  private readonly onlyEmpty = new Names();

  constructor(pages: readonly Page[]) {
    const nobody = () => ({ gets: new Names(), empty: new Names(), stuck: new Names(), why: null });
    this.pages = new Map(pages.map(({ id, title }) => [id, { title, ...nobody() }]));
  }

  add(person: KnownPerson, found: readonly (Found & { page: Page })[]): void {
    for (const { page, isEmpty, stuck } of found) {
      const notes = this.pages.get(page.id)!;
      notes.gets.add(person);
      if (isEmpty) notes.empty.add(person);
      if (stuck !== null) notes.stuck.add(person);
      notes.why ??= stuck;
    }
    if (found.length === 0) this.without.add(person);
    else if (found.every(({ isEmpty }) => isEmpty)) this.onlyEmpty.add(person);
  }

  told(people: number): Rehearsal {
    return {
      people,
      pages: [...this.pages].map(([id, { title, gets, empty, stuck, why }]) => ({
        id,
        title,
        gets: gets.told(),
        empty: empty.told(),
        stuck: { ...stuck.told(), why },
      })),
      without: this.without.told(),
      onlyEmpty: this.onlyEmpty.told(),
    };
  }
}
