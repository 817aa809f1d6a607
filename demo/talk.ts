import type { PortalDefinition } from '../core/definition/definition';
import type { Circle } from '../core/definition/comments';
import { say } from '../server/comments/comments';
import type { Sources } from '../server/definitions/definitions';
import { list } from '../server/gate/gate';
import { knownMember, memberPerson } from '../server/people/members';
import { standInKey } from '../server/store/stand-in';
import { Member } from '../server/store/people-models';
import type { PortalVisit } from '../server/visits/member-visit';

/** What is said in the demo of the wells and visits of one owner: by whom, how many days ago, and to whom. */
const talk: {
  table: 'wells' | 'visits';
  at: number;
  said: [who: string, daysAgo: number, text: string, to?: Circle][];
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
    table: 'visits',
    at: 0,
    said: [
      ['ines.brannock', 3, 'The gate is locked in the morning. The key is with the neighbour at the mill.'],
      ['odile.fennimore', 2, 'The sampler knows.'],
    ],
  },
];

const day = 24 * 3600_000;

/** Says it, as those members and under their rights. */
export async function talkInDemo(sources: Sources, definition: PortalDefinition, portalId: number): Promise<void> {
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
    for (const [who, ago, text, circle = 'forAll'] of said)
      await say(await visitOf(who, new Date(Date.now() - ago * day)), table, records[at]!.id!, { text, circle });
  }
}
