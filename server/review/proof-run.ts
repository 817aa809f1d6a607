import Joi from 'joi';
import { servicePerson } from '../../core/access/person';
import { Problem } from '../../core/refusals/problem';
import type { PortalDefinition } from '../../core/definition/definition';
import type { CoreServices } from '../definitions/portal-services';
import { prove, type Proof } from '../gate/gate';
import type { JobContext } from '../jobs/run-job';
import { Builder, Portal, type Job } from '../store/models';
import { ProofRun } from '../store/proof-model';
import { refuseUnpublished } from '../versions/change-report';
import { asEverybody } from './as-everybody';

/** What is proven: the draft, or the version that is live. */
export interface ProofOrder {
  of: 'draft' | 'live';
  /** By chance where nothing is said; the same questions come of the same seed where as many are asked. */
  seed: number | null;
  /** Whether writes are tried as well, and taken back. */
  writes: boolean;
  /** About how many questions are asked. */
  questions: number;
}

const usual = 10_000;

export const proofOrder = Joi.object<ProofOrder>({
  of: Joi.valid('draft', 'live').required(),
  seed: Joi.number()
    .integer()
    .min(0)
    .max(2 ** 31 - 1)
    .allow(null)
    .default(null),
  writes: Joi.boolean().default(false),
  questions: Joi.number().integer().min(500).max(50_000).default(usual),
});

/** A person of whom a difference tells. */
export interface ProofTold extends Proof {
  /** Of those whom differences are about, by their numbers. */
  names: Record<number, string>;
  seconds: number;
  /** About how many questions were wanted; nothing is said of it in runs from before it was chosen. */
  wanted?: number;
  /** Short names of further sources, whose tables are not asked about. */
  elsewhere: string[];
}

/** So many are asked as: of every set of roles some. */
const mostPeople = 60;
const largest = 100_000;
/** So many runs of one portal are kept. */
const keptRuns = 40;

/** How a run is made: as a run of a builder's where nothing is said. */
interface ProofSize {
  seed: number;
  writes: boolean;
  questions?: number;
  /** So many are asked as at most. */
  most?: number;
}

/** Asks a definition's questions as people of every kind, as visitors and as programs. */
export async function proveOn(
  services: CoreServices,
  of: Pick<Job, 'portalId' | 'ownerId'>,
  definition: PortalDefinition,
  { seed, writes, questions = usual, most = mostPeople }: ProofSize,
  progress: JobContext['progress'] = () => Promise.resolve(),
): Promise<ProofTold> {
  const { people, visitOf, visitAs } = await asEverybody(services, of, definition);
  const began = performance.now();
  const members = ofEveryKind(people.map(visitOf), most, ({ person }) => [...person.roles].sort().join(' '));
  const forServices = definition.roles.filter((role) => role.for === 'services');
  const programs = forServices.map(({ id }) => visitAs(servicePerson(definition, [id])));
  const [first, ...more] = [...members, ...programs];
  if (!first)
    throw new Problem(422, 'nobody', 'There is nobody to ask as: no members, no visitors, no role of a service.');
  const proof = await prove(first.source, [first, ...more], { seed, writes, questions, largest, progress });
  const named = new Set(proof.differences.map(({ person }) => person));
  return {
    ...proof,
    wanted: questions,
    elsewhere: Object.keys(definition.sources ?? {}),
    seconds: (performance.now() - began) / 1000,
    names: Object.fromEntries(people.flatMap(({ id, name }) => (id !== null && named.has(id) ? [[id, name]] : []))),
  };
}

/** Proves the gate on the portal's own people and records, and keeps what came of it with the version. */
export async function proofRun(
  { services, job, progress }: JobContext,
  { of, seed, writes, questions }: ProofOrder,
): Promise<ProofTold> {
  const portal = await Portal.findByPk(job.portalId, { rejectOnEmpty: true });
  const version = of === 'live' ? refuseUnpublished(portal) : null;
  const definition = await (version === null
    ? services.definitions.draft(portal)
    : services.definitions.version(portal.id, version));
  const told = await proveOn(
    services,
    job,
    definition,
    { seed: seed ?? Math.floor(Math.random() * 2 ** 31), writes, questions },
    progress,
  );
  const builder = job.ownerId === null ? null : await Builder.findByPk(job.ownerId);
  const { names: _names, ...kept } = told;
  await ProofRun.create({
    portalId: portal.id,
    version,
    revision: portal.revision,
    madeBy: builder?.email ?? '',
    madeAt: new Date(),
    result: JSON.stringify(kept),
  });
  await forgetOldRuns(portal.id);
  return told;
}

/** Of every kind as many as there is room for, in turns. */
function ofEveryKind<T>(all: readonly T[], most: number, kindOf: (one: T) => string): T[] {
  const kinds = new Map<string, T[]>();
  for (const one of all) kinds.set(kindOf(one), [...(kinds.get(kindOf(one)) ?? []), one]);
  const chosen: T[] = [];
  for (let turn = 0; chosen.length < Math.min(most, all.length); turn++)
    for (const kind of kinds.values()) chosen.push(...kind.slice(turn, turn + 1));
  return chosen.slice(0, most);
}

async function forgetOldRuns(portalId: number): Promise<void> {
  const old = await ProofRun.findAll({
    where: { portalId },
    order: [['id', 'DESC']],
    offset: keptRuns,
    limit: 100,
    attributes: ['id'],
  });
  if (old.length > 0) await ProofRun.destroy({ where: { id: old.map(({ id }) => id) } });
}
