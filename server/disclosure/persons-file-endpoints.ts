import { Readable } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import { writeAudit } from '../audit/audit';
import { openDraft, type BenchServices, type OpenDraft } from '../bench/bench';
import { NotFound } from '../gate/gate';
import { endpoint, FileAnswer, ownNumber } from '../http/endpoint';
import { memberOf } from '../people/administer';
import { callingTo } from '../people/calling';
import { memberSheet } from '../people/member-sheet';
import { standInKey } from '../store/stand-in';
import { asBuilder } from '../visits/builder-visit';
import { personSeen } from '../visits/seen-by';
import { personsFile, type FileOf } from './persons-file';

/** A person's file, for whom they ask what is held of them. */
export function personsFileEndpoints(services: BenchServices) {
  return {
    personsFile: endpoint({
      method: 'GET',
      path: '/members/:member/file',
      says: 'All that is held of a member and shown them as theirs, and what the log knows of them, as a file.',
      entry: openDraft(services),
      personal: true,
      params: { member: ownNumber },
      answers: { 200: new FileAnswer('application/json; charset=utf-8') },
      does: async ({ draft, builder, signed, params, res }) => {
        const { source: runner, catalogue, definition, portal } = draft;
        const member = await memberOf(portal.id, params.member);
        const sheet = await memberSheet(
          { runner, catalogue, definition, calling: await callingTo(draft, portal.id) },
          member,
        );
        await writeAudit(portal.id, signed, 'exported', `the file of ${member.name} <${member.email}>`);
        const of = {
          portal,
          member,
          sheet,
          builder,
          ...(await asTheyAre(services, draft, member.id)),
          asBuilder: asBuilder(draft),
        };
        res.attachment(`${portal.slug}-person-${member.id}.json`).type('json');
        await pipeline(Readable.from(personsFile(of, new Date())), res);
      },
    }),
  };
}

/** The visit that a member would make of what is published, also where they may not come in at the moment. */
async function asTheyAre(
  services: BenchServices,
  draft: OpenDraft,
  member: number,
): Promise<Pick<FileOf, 'asThey' | 'tables'>> {
  const { portal } = draft;
  const nothing = { asThey: null, tables: [] };
  if (portal.publishedVersion === null) return nothing;
  const definition = await services.definitions.version(portal.id, portal.publishedVersion);
  const opened = await services.sources.of(definition);
  try {
    const { person } = await personSeen({ ...draft, ...opened, definition }, String(member));
    const { catalogue } = await services.sources.all(definition);
    const asThey = { ...opened, definition, person, moment: new Date(), standIn: await standInKey(portal.id) };
    return { asThey, tables: catalogue.tables.map(({ name }) => name) };
  } catch (error) {
    if (error instanceof NotFound) return nothing;
    throw error;
  }
}
