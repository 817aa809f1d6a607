import { partsChanged, type PartChange } from '../core/definition/parts-changed';
import type { PortalDefinition } from '../core/definition/definition';
import { Advice } from '../core/refusals/advice';
import { counted } from '../core/text/counted';
import { readDefinition } from '../sections/definition';
import type { CoreServices } from '../server/definitions/portal-services';
import { findingsOf } from '../server/review/findings-of';
import { Portal, Version } from '../server/store/models';
import { changesBetween } from '../server/versions/change-report';
import { promisesOf } from '../server/versions/promises-of';

/** What a pipeline asks of a definition before it is applied. */
export const pipelineCommands = ['diff', 'check', 'test', 'report'] as const;
export type PipelineCommand = (typeof pipelineCommands)[number];

/** What came of it: lines for people, the same as JSON, and whether it stands against going on. */
export interface PipelineAnswer {
  lines: string[];
  json: unknown;
  stops: boolean;
}

/** The portal of a definition, and what it is compared with: what is live, else the draft. */
async function known(definition: PortalDefinition): Promise<{ portal: Portal; live: PortalDefinition }> {
  const { slug } = definition.portal;
  const portal = await Portal.findOne({ where: { slug } });
  if (!portal) throw new Advice(`There is no portal ${slug} to hold it against. Apply it first.`);
  const { publishedVersion: number } = portal;
  const version = number === null ? null : await Version.findOne({ where: { portalId: portal.id, number } });
  return { portal, live: readDefinition(JSON.parse(version?.document ?? portal.draft)) };
}

/** The draft of a portal by its slug. */
export async function draftOf(slug: string): Promise<PortalDefinition> {
  const portal = await Portal.findOne({ where: { slug } });
  if (portal) return readDefinition(JSON.parse(portal.draft));
  const all = (await Portal.findAll()).map((each) => each.slug).join(', ');
  throw new Advice(`There is no portal ${slug}, and no such file. Portals: ${all || 'none'}.`);
}

/** Asks one thing of a definition, with the records and people as they are. Nothing is changed. */
export async function answer(
  services: CoreServices,
  command: PipelineCommand,
  definition: PortalDefinition,
): Promise<PipelineAnswer> {
  const { portal, live } = await known(definition);
  switch (command) {
    case 'diff': {
      const parts = partsChanged(live, definition);
      const isSame = JSON.stringify(live) === JSON.stringify(definition);
      const lines = parts.map(partLine);
      return { lines: isSame ? ['It is what is live.'] : lines, json: { same: isSame, parts }, stops: !isSame };
    }
    case 'check': {
      const opened = await services.sources.of(definition);
      const { open, accepted } = await findingsOf(services, { portal, definition, ...opened, withoutSight: true });
      const lines = open.map(({ severity, title }) => `${severity}: ${title}`);
      const last = `${counted(open.length, 'finding')}, ${accepted.length} accepted.`;
      return { lines: [...lines, last], json: { findings: open, accepted }, stops: open.length > 0 };
    }
    case 'test': {
      const outcomes = await promisesOf(services, portal, definition);
      const broken = outcomes.filter(({ kept }) => !kept);
      const lines = broken.map(({ id, problem }) => `broken: ${id}${problem ? `: ${problem}` : ''}`);
      const last = `${counted(outcomes.length, 'promise')}, ${broken.length} broken.`;
      return { lines: [...lines, last], json: { outcomes }, stops: broken.length > 0 };
    }
    case 'report': {
      const report = await changesBetween(services, { portalId: portal.id, ownerId: null }, live, definition);
      const pages = report.pages.map(
        ({ title, gained, lost }) => `page ${title}: ${gained.length} people get it, ${lost.length} no longer`,
      );
      const groups = report.groups.map(({ table, rolesAfter, people, change: { rows, columns, editable } }) => {
        const all = Object.values(columns);
        const sum = (numbers: number[]) => numbers.reduce((total, each) => total + each, 0);
        return (
          `${table}, ${rolesAfter.join(' and ') || 'no role'}, ${counted(people.length, 'person', 'people')} each: ` +
          `records +${rows.gained} -${rows.lost}, cells +${sum(all.map(({ opened }) => opened))} ` +
          `-${sum(all.map(({ closed }) => closed))}, to change ` +
          `+${sum(Object.values(editable).map(({ gained }) => gained))} ` +
          `-${sum(Object.values(editable).map(({ lost }) => lost))}`
        );
      });
      const lines = [...report.parts.map(partLine), ...pages, ...groups];
      return { lines: lines.length > 0 ? lines : ['Nothing changes.'], json: report, stops: false };
    }
  }
}

const partLine = ({ kind, name, change, of }: PartChange): string =>
  `${kind} ${name}: ${change}${of.length > 0 ? ` (${of.join(', ')})` : ''}`;
