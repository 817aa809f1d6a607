import { asBuilder } from '../visits/builder-visit';
import { personSeen, seenBy } from '../visits/seen-by';
import type { Bench } from '../bench/bench';
import {
  at,
  countCondition,
  countForPeople,
  dataFacts,
  NotFound,
  count,
  maskSamples,
  missingIndexes,
  rosterFacts,
  sideBySide,
} from '../gate/gate';
import { Router, type Request } from 'express';
import Joi from 'joi';
import { rolesOf } from '../../core/access/people';
import { columnsOfClass, reachOf, whoSees, type AskedOf, type Reach } from '../../core/access/who';
import { askedColumns } from '../../core/check/index-advice';
import { peopleFacts } from '../../core/check/people-facts';
import { splitAccepted } from '../../core/check/accepted';
import { findFaults } from '../../core/check/findings';
import { readCondition } from '../../core/condition/check';
import { dataClasses, type DataClass } from '../../core/definition/definition';
import { maskSchema } from '../../core/definition/mask-schema';
import type { Mask } from '../../core/mask/mask';
import { findTable } from '../../core/table/catalogue';
import { cellText, csvLine } from '../formats/export-text';
import { reasonOf } from '../connections/away';
import { valid } from '../http/problems';
import type { CoreServices } from '../definitions/portal-services';
import { everyone } from '../people/everyone';
import { standInKey } from '../visits/stand-in';

const text = (max: number) => Joi.string().max(max);
const who = text(60).allow(null);

/** What the Access stage asks of the draft: counts, samples, two persons side by side, who sees what, findings. */
export function accessRoutes(services: CoreServices, bench: Bench): Router {
  const router = Router({ mergeParams: true });
  const own = (req: Request) => bench.draftAt(req, '');

  router.post('/condition', async (req, res) => {
    const body = valid(
      Joi.object<{ table: string; text: string; member: string | number | null; role: string | null; all: boolean }>({
        table: text(105).required(),
        text: text(20_000).required(),
        member: Joi.alternatives(Joi.number().integer(), who).required(),
        role: text(40).allow(null).default(null),
        all: Joi.boolean().strict().default(false),
      }),
      req.body,
    );
    const [home, draft] = [await own(req), await bench.draftAt(req, body.table)];
    const { definition, source, catalogue, portal } = draft;
    const table = findTable(catalogue, body.table);
    if (!table) throw new NotFound('table');
    const condition = readCondition(body.text, { catalogue, table, member: true });
    const person = body.member === null ? null : (await personSeen(home, String(body.member))).person;
    // All members of a large role at once can take long on a large table: some of them first, and all when it is asked
    // for.
    const inRole =
      body.role === null
        ? null
        : (await everyone(home.source, home.catalogue, [definition], portal.id)).filter((each) =>
            rolesOf(definition, home.catalogue, each).includes(body.role!),
          );
    const members = inRole && (body.all ? inRole : evenly(inRole, countedAtOnce));
    const [passing, total, role] = await Promise.all([
      person ? countCondition(source, { ...asBuilder(draft), person }, table, condition) : null,
      members ? null : count(source, asBuilder(draft), table.name),
      members && members.length > 0
        ? countForPeople({ runner: source, catalogue, definition, moment: new Date() }, table, condition, members)
        : null,
    ]);
    res.json({ condition, passing, total, role: role && { ...role, inRole: inRole!.length } });
  });

  router.post('/mask-sample', async (req, res) => {
    const body = valid(
      Joi.object<{ table: string; column: string; mask: Mask }>({
        table: text(105).required(),
        column: text(64).required(),
        mask: maskSchema.required(),
      }),
      req.body,
    );
    const draft = await bench.draftAt(req, body.table);
    res.json({
      samples: await maskSamples(
        draft.source,
        { ...asBuilder(draft), standIn: await standInKey(draft.portal.id) },
        body.table,
        body.column,
        body.mask,
      ),
    });
  });

  router.get('/side-by-side/:table', async (req, res) => {
    const query = valid(
      Joi.object<{ one: string; other: string; only: boolean }>({
        one: text(60).required(),
        other: text(60).required(),
        only: Joi.boolean().default(false),
      }),
      req.query,
      'query',
    );
    const home = await own(req);
    const visits = await Promise.all(
      [query.one, query.other].map(async (each) => at(await seenBy(home, each, bench.signed(res)), req.params.table)),
    );
    res.json(await sideBySide(visits[0]!.source, [visits[0]!, visits[1]!], req.params.table, query.only, 60));
  });

  router.get('/who', async (req, res) => {
    const query = valid(
      Joi.object<{ table?: string; column?: string; class?: DataClass; person?: string; format: 'json' | 'csv' }>({
        table: text(105),
        column: text(64),
        class: Joi.valid(...dataClasses),
        person: text(60),
        format: Joi.valid('json', 'csv').default('json'),
      })
        .and('table', 'column')
        .xor('column', 'class', 'person'),
      req.query,
      'query',
    );
    const home = await own(req);
    const { catalogue } = await services.sources.all(home.definition);
    const role = (id: string) => home.definition.roles.find((each) => each.id === id)?.name ?? id;
    if (query.person !== undefined) {
      const { person, name } = await personSeen(home, query.person);
      const reached = reachOf(home.definition, catalogue, person);
      if (query.format === 'json') return void res.json({ name, reached });
      const lines = reached.map(({ table, column, reach, rows }) =>
        guardedLine([name, table, column, ...reachWords(reach, role), rows]),
      );
      return void res
        .attachment('what-one-person-reaches.csv')
        .type('text/csv; charset=utf-8')
        .send(csvLine(['person', 'table', 'column', ...reachHeads, 'in which rows']) + lines.join(''));
    }
    const asked: AskedOf[] = query.class
      ? columnsOfClass(home.definition, catalogue, query.class)
      : [{ table: query.table!, column: query.column! }];
    const people = await everyone(home.source, home.catalogue, [home.definition], home.portal.id);
    const found = whoSees(home.definition, catalogue, people, asked);
    if (query.format === 'json') return void res.json({ asked, found });
    const lines = found.flatMap(({ table, column, people: groups }) =>
      groups.flatMap((group) =>
        group.people.map((person) => guardedLine([person.name, table, column, ...reachWords(group.reach, role)])),
      ),
    );
    res
      .attachment('who-sees-what.csv')
      .type('text/csv; charset=utf-8')
      .send(csvLine(['person', 'table', 'column', ...reachHeads]) + lines.join(''));
  });

  router.get('/findings', async (req, res) => {
    const { definition, source, catalogue, portal } = await own(req);
    const facts = await Promise.all(definition.rosters.map((roster) => rosterFacts(source, catalogue, roster)));
    const { catalogue: known, away } = await services.sources.all(definition);
    const [people, unindexed] = await Promise.all([
      everyone(source, catalogue, [definition], portal.id),
      missingIndexes(source, catalogue, askedColumns(definition, catalogue)),
    ]);
    const data = {
      ...(await dataFacts({ runner: source, catalogue, definition, moment: new Date() }, people)),
      away: away.map(({ name, error }) => ({ name, reason: reasonOf(error) })),
    };
    const { open, accepted } = splitAccepted(
      findFaults(
        definition,
        known,
        facts,
        peopleFacts(definition, known, people),
        unindexed.map(({ table, column }) => ({ table, column })),
        data,
      ),
      definition,
    );
    res.json({ findings: open, accepted, rosters: facts });
  });
  return router;
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

function reachWords(reach: Reach, role: (id: string) => string): string[] {
  const yes = (is: boolean) => (is ? 'yes' : 'no');
  return [
    reach.level,
    reach.mask ?? '',
    yes(reach.edit),
    yes(reach.create),
    yes(reach.export),
    reach.through.map(role).join(', '),
  ];
}
