import type { PortalDefinition } from '../core/definition/definition';
import type { Sequelize } from 'sequelize';
import type { Circle } from '../core/definition/hung';
import { attachSent } from '../server/comments/attachments';
import { say } from '../server/comments/comments';
import type { Sources } from '../server/definitions/definitions';
import { list } from '../server/gate/gate';
import { knownMember, memberPerson } from '../server/people/members';
import { standInKey } from '../server/store/stand-in';
import { Member } from '../server/store/people-models';
import type { PortalVisit } from '../server/visits/member-visit';
import { wellPicture } from './well-pictures';

/** What is said in the demo of the wells and visits of one owner: by whom, how many days ago, and to whom. */
const talk: {
  table: 'wells' | 'visits';
  at: number;
  said: [who: string, daysAgo: number, text: string, to?: Circle, wrong?: { column: string; meant: string }][];
}[] = [
  {
    table: 'wells',
    at: 0,
    said: [
      ['ines.brannock', 12, 'The pump was changed last week. The water was brown for a day and is clear now.'],
      ['odile.fennimore', 11, 'Thank you for telling us. Please let it run for ten minutes before the next visit.'],
      [
        'odile.fennimore',
        11,
        'Iron was high here after the last pump, too. Ask the lab for it with the next sample.',
        'amongUs',
      ],
      ['ines.brannock', 9, 'I will. Does the treatment have to be switched off?'],
      ['odile.fennimore', 8, 'No, leave it on: we sample before and after it.'],
    ],
  },
  {
    table: 'wells',
    at: 2,
    said: [
      [
        'ines.brannock',
        5,
        'The driller measured it again when the casing was mended.',
        'forAll',
        { column: 'depth_m', meant: '7.4' },
      ],
    ],
  },
  {
    table: 'visits',
    at: 0,
    said: [
      ['ines.brannock', 3, 'The gate is locked in the morning. The key is with the neighbour at the mill.'],
      ['odile.fennimore', 2, 'The sampler knows.'],
    ],
  },
];

/** What hangs in the demo on the wells of one owner: by whom, on which of them, how many days ago. */
const files: [who: string, at: number, daysAgo: number, name: string, to?: Circle][] = [
  ['ines.brannock', 0, 30, 'well-at-the-mill.png'],
  ['ines.brannock', 1, 30, 'orchard-well.png'],
  ['ines.brannock', 2, 29, 'well-by-the-lane.png'],
  ['ines.brannock', 0, 12, 'new-pump.txt'],
  ['odile.fennimore', 0, 11, 'call-with-the-lab.txt', 'amongUs'],
];

const notes: Record<string, string> = {
  'new-pump.txt': 'Pump changed on the 14th by the driller.\nOne-inch riser, 40 metres.\n',
  'call-with-the-lab.txt': 'The lab takes iron with the next sample without a new order.\n',
};

const day = 24 * 3600_000;

/** Says it and hangs them, as those members and under their rights. */
export async function talkInDemo(
  sequelize: Sequelize,
  sources: Sources,
  definition: PortalDefinition,
  portalId: number,
): Promise<void> {
  const opened = await sources.of(definition);
  const standIn = await standInKey(portalId);
  const visitOf = async (name: string, moment: Date): Promise<PortalVisit> => {
    const member = await Member.findOne({ where: { portalId, email: `${name}@example.org` }, rejectOnEmpty: true });
    const known = (await knownMember(portalId, member.id))!;
    const person = await memberPerson(opened.source, opened.catalogue, definition, known);
    return {
      ...opened,
      definition,
      person,
      moment,
      standIn,
      portalId,
      name: known.name,
      email: known.email,
      seenBy: false,
    };
  };
  const owner = await visitOf('ines.brannock', new Date());
  for (const { table, at, said } of talk) {
    const sort = [{ path: [table === 'wells' ? 'code' : 'planned_for'], descending: table === 'visits' }];
    const question = { columns: [], where: [], search: '', sort, after: null, before: null, size: 10 };
    const { records } = await list(opened.source, owner, table, question);
    for (const [who, ago, text, circle = 'forAll', wrong] of said)
      await say(await visitOf(who, new Date(Date.now() - ago * day)), table, records[at]!.id!, {
        text,
        circle,
        ...(wrong ? { wrong } : {}),
      });
  }
  const sort = [{ path: ['code'], descending: false }];
  const question = { columns: [], where: [], search: '', sort, after: null, before: null, size: 10 };
  const { records: wells } = await list(opened.source, owner, 'wells', question);
  for (const [i, [who, at, ago, name, circle = 'forAll']] of files.entries()) {
    const visit = await visitOf(who, new Date(Date.now() - ago * day));
    const bytes = name in notes ? Buffer.from(notes[name]!) : await wellPicture(i + 1);
    await attachSent(sequelize, visit, 'wells', wells[at]!.id!, circle, { name, bytes });
  }
}
