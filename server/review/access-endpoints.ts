import { asBuilder } from '../visits/builder-visit';
import { personSeen, seenBy } from '../visits/seen-by';
import { findingsOf } from './findings-of';
import { draftAt, openDraft, type BenchServices, type OpenDraft } from '../bench/bench';
import {
  at,
  countCondition,
  countForPeople,
  NotFound,
  count,
  maskSamples,
  sideBySide,
  type MaskSample,
} from '../gate/gate';
import type { Response } from 'express';
import Joi from 'joi';
import { stewardCalled } from '../../core/definition/steward-words';
import { rolesOf } from '../../core/access/people';
import { columnsOfClass, reachOf, whoSees, type AskedOf, type Reach } from '../../core/access/who';
import { readCondition } from '../../core/condition/check';
import { dataClasses, type DataClass } from '../../core/definition/definition';
import { maskSchema } from '../../core/definition/mask-schema';
import type { Mask } from '../../core/mask/mask';
import { findTable, type Catalogue } from '../../core/table/catalogue';
import { cellText, csvLine } from '../formats/export-text';
import { form, listOf } from '../http/answers';
import { endpoint, FileAnswer } from '../http/endpoint';
import { callingTo } from '../people/calling';
import { everyone } from '../people/everyone';
import { standInKey } from '../store/stand-in';

import { countedCondition, findings, maskSample, sideBySideAnswer, whoAnswer } from './review-answers';

const text = (max: number) => Joi.string().max(max);
const who = text(60).allow(null);

interface WhoQuestion {
  table?: string;
  column?: string;
  class?: DataClass;
  person?: string;
}

const whoQuestion = Joi.object<WhoQuestion>({
  table: text(105),
  column: text(64),
  class: Joi.valid(...dataClasses),
  person: text(60),
})
  .and('table', 'column')
  .xor('column', 'class', 'person');

/** What the Access stage asks of the draft: counts, samples, two persons side by side, who sees what, findings. */
export function accessEndpoints(services: BenchServices) {
  const entry = openDraft(services);
  return {
    countCondition: endpoint({
      method: 'POST',
      reads: true,
      path: '/condition',
      says: 'How many records a condition lets through: of all, for one person, or for each member of a role.',
      entry,
      body: Joi.object<{
        table: string;
        text: string;
        member: string | number | null;
        role: string | null;
        all: boolean;
      }>({
        table: text(105).required(),
        text: text(20_000).required(),
        member: Joi.alternatives(Joi.number().integer(), who).required(),
        role: text(40).allow(null).default(null),
        all: Joi.boolean().strict().default(false),
      }),
      answers: { 200: countedCondition },
      does: async ({ draft: home, body }) => {
        const draft = await draftAt(home, body.table);
        const { definition, source, catalogue, portal } = draft;
        const table = findTable(catalogue, body.table);
        if (!table) throw new NotFound('table');
        const condition = readCondition(body.text, { catalogue, table, member: true });
        const person = body.member === null ? null : (await personSeen(home, String(body.member))).person;
        // All members of a large role at once can take long on a large table: some of them first, and all when it is
        // asked for.
        const inRole =
          body.role === null
            ? null
            : (
                await everyone(home.source, home.catalogue, [definition], portal.id, await callingTo(home, portal.id))
              ).filter((each) => rolesOf(definition, home.catalogue, each).includes(body.role!));
        const members = inRole && (body.all ? inRole : evenly(inRole, countedAtOnce));
        const [passing, total, role] = await Promise.all([
          person ? countCondition(source, { ...asBuilder(draft), person }, table, condition) : null,
          members ? null : count(source, asBuilder(draft), table.name),
          members && members.length > 0
            ? countForPeople({ runner: source, catalogue, definition, moment: new Date() }, table, condition, members)
            : null,
        ]);
        return { condition, passing, total, role: role && { ...role, inRole: inRole!.length } };
      },
    }),
    maskSamples: endpoint({
      method: 'POST',
      reads: true,
      path: '/mask-sample',
      says: 'A mask on real values of a column.',
      personal: true,
      entry,
      body: Joi.object<{ table: string; column: string; mask: Mask }>({
        table: text(105).required(),
        column: text(64).required(),
        mask: maskSchema.required(),
      }),
      answers: { 200: form<{ samples: MaskSample[] }>({ samples: listOf(maskSample) }) },
      does: async ({ draft: home, body: { table, column, mask } }) => {
        const draft = await draftAt(home, table);
        const visit = { ...asBuilder(draft), standIn: await standInKey(draft.portal.id) };
        return { samples: await maskSamples(draft.source, visit, table, column, mask) };
      },
    }),
    sideBySide: endpoint({
      method: 'GET',
      path: '/side-by-side/:table',
      says: 'One table as two persons get it.',
      entry,
      query: Joi.object<{ one: string; other: string; only: boolean }>({
        one: text(60).required(),
        other: text(60).required(),
        only: Joi.boolean().default(false),
      }),
      answers: { 200: sideBySideAnswer },
      does: async ({ draft, signed, params: { table }, query: { one, other, only } }) => {
        const visits = await Promise.all(
          [one, other].map(async (each) => at(await seenBy(draft, each, signed), table)),
        );
        return sideBySide(visits[0]!.source, [visits[0]!, visits[1]!], table, only, 60);
      },
    }),
    whoSees: endpoint({
      method: 'GET',
      path: '/who',
      says: 'Who reaches a column or a data class, or what one person reaches.',
      entry,
      query: whoQuestion,
      answers: { 200: whoAnswer },
      does: async ({ draft, query }) => {
        const { catalogue } = await services.sources.all(draft.definition);
        return query.person === undefined
          ? seenWhere(draft, catalogue, query)
          : reachedBy(draft, catalogue, query.person);
      },
    }),
    whoSeesAsFile: endpoint({
      method: 'GET',
      path: '/who.csv',
      says: 'Who sees what, as a file.',
      entry,
      query: whoQuestion,
      answers: { 200: new FileAnswer('text/csv; charset=utf-8') },
      does: async ({ draft, query, res }) => {
        const { definition } = draft;
        const { catalogue } = await services.sources.all(definition);
        const role = (id: string) => definition.roles.find((each) => each.id === id)?.name ?? id;
        const steward = (id: string) => stewardCalled(definition, id);
        if (query.person !== undefined) {
          const { name, reached } = await reachedBy(draft, catalogue, query.person);
          const lines = reached.map(({ table, column, reach, rows }) => [
            name,
            table,
            column,
            ...reachWords(reach, role, steward),
            rows,
          ]);
          const heads = ['person', 'table', 'column', ...reachHeads, 'in which rows'];
          sendLines(res, 'what-one-person-reaches.csv', heads, lines);
          return;
        }
        const { found } = await seenWhere(draft, catalogue, query);
        const lines = found.flatMap(({ table, column, people: groups }) =>
          groups.flatMap((group) =>
            group.people.map((person) => [person.name, table, column, ...reachWords(group.reach, role, steward)]),
          ),
        );
        sendLines(res, 'who-sees-what.csv', ['person', 'table', 'column', ...reachHeads], lines);
      },
    }),
    findings: endpoint({
      method: 'GET',
      path: '/findings',
      says: 'What the automatic check holds against the draft, and what is meant so.',
      entry,
      answers: { 200: findings },
      does: async ({ draft }) => {
        const { open, accepted, rosters } = await findingsOf(services, draft);
        return { findings: open, accepted, rosters };
      },
    }),
  };
}

/** What one person reaches, by the draft. */
async function reachedBy(draft: OpenDraft, catalogue: Catalogue, who: string) {
  const { person, name } = await personSeen(draft, who);
  const calling = await callingTo(draft, draft.portal.id);
  const called = person.kind === 'member' ? calling.name(name) : name;
  return { name: called, reached: reachOf(draft.definition, catalogue, person) };
}

/** Who reaches a column, or the columns of a data class, by the draft. */
async function seenWhere(draft: OpenDraft, catalogue: Catalogue, question: WhoQuestion) {
  const { definition, portal } = draft;
  const asked: AskedOf[] = question.class
    ? columnsOfClass(definition, catalogue, question.class)
    : [{ table: question.table!, column: question.column! }];
  const people = await everyone(
    draft.source,
    draft.catalogue,
    [definition],
    portal.id,
    await callingTo(draft, portal.id),
  );
  return { asked, found: whoSees(definition, catalogue, people, asked) };
}

function sendLines(res: Response, name: string, heads: string[], lines: string[][]): void {
  res
    .attachment(name)
    .type('text/csv; charset=utf-8')
    .send(csvLine(heads) + lines.map(guardedLine).join(''));
}

const guardedLine = (cells: string[]) => csvLine(cells.map((cell) => cellText(cell, true)));

/** So many members of a role are counted before anybody asks for all. */
const countedAtOnce = 500;

/** At most so many of the list, spread evenly over it. */
function evenly<T>(list: readonly T[], most: number): T[] {
  return list.length <= most
    ? [...list]
    : Array.from({ length: most }, (_, i) => list[Math.floor((i * list.length) / most)]!);
}

const reachHeads = ['sees', 'mask', 'edits', 'fills in new records', 'exports', 'through'];

function reachWords(reach: Reach, role: (id: string) => string, steward: (id: string) => string): string[] {
  const yes = (is: boolean) => (is ? 'yes' : 'no');
  return [
    reach.level,
    reach.mask ?? '',
    yes(reach.edit),
    yes(reach.create),
    yes(reach.export),
    [...reach.through.map(role), ...reach.stewards.map(steward)].join('; '),
  ];
}
