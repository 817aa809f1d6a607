import { Op } from 'sequelize';
import { columnLabel } from '../../core/definition/definition';
import { readPath } from '../../core/definition/path';
import { plainLabel } from '../../core/table/catalogue';
import type { Value } from '../../core/table/value';
import { at, NotFound, ownRecords, read, type PlacedVisit, type ViewRecord } from '../gate/gate';
import { Comment, DiscussedRecord } from '../store/comment-models';
import { FormSent } from '../store/form-models';
import { KeptChange } from '../store/history-model';
import { KeptView } from '../store/kept-view-model';
import { isSourceAway } from '../sources/connection-problem';
import { mayBuild } from '../sessions/as-builder';
import { AuditEntry, Portal, StoredFile, type Builder } from '../store/models';
import { HandOver, Member, Membership, OutboxMail, Passkey, SignUpRequest } from '../store/people-models';
import type { MemberSheet } from '../people/member-sheet';

/** What a person's file is made of. */
export interface FileOf {
  portal: Portal;
  member: Member;
  sheet: MemberSheet;
  /** As they have what is published; null where nothing is, or they are no member any more. */
  asThey: PlacedVisit | null;
  /** Every table of what is published, those of further sources among them. */
  tables: readonly string[];
  /** As the workplace has it. */
  asBuilder: PlacedVisit;
  /** Whoever takes it: of other portals they are told of those alone that they build. */
  builder: Builder;
}

const pageSize = 1000;

/**
 * All that a portal holds of one person and shows them as theirs, and what its log knows of them, as one JSON document
 * (RFC 8259), part by part.
 */
export async function* personsFile(of: FileOf, now: Date): AsyncGenerator<string> {
  const { portal, member, sheet } = of;
  const { name, email, state, organisation, knownSince, goneSince, invitedAt, lastIn, suspended, given, roles } = sheet;
  const parts: [string, unknown][] = [
    ['portal', { name: of.asBuilder.definition.portal.name, address: portal.slug }],
    ['madeAt', now.toISOString()],
    ['person', { name, email, state, organisation, knownSince, goneSince, invitedAt, lastIn, suspended }],
    ['roles', { now: roles.map((role) => roleName(of, role)), givenByHand: given }],
    ['rowsOfRosters', await rowsOfRosters(of)],
    ['sessions', sheet.sessions],
    ['passkeys', await Passkey.findAll({ where: { memberId: member.id }, attributes: ['name', 'madeAt', 'usedAt'] })],
    ['secondFactor', sheet.hasSecondFactor],
    ['mails', await mailsTo(member)],
    ['comments', await hungBy(of)],
    ['formsSent', (await FormSent.findAll({ where: { memberId: member.id } })).map(({ form }) => form)],
    ['keptViews', (await KeptView.findAll({ where: { memberId: member.id } })).map((each) => each.name)],
    ['signUps', await signUpsOf(member)],
    [
      'handOvers',
      (await HandOver.findAll({ where: { memberId: member.id } })).map(({ at: when, told }) => [when, told]),
    ],
    ['alsoIn', await alsoIn(of)],
  ];
  yield '{\n';
  for (const [part, value] of parts) yield `${JSON.stringify(part)}: ${json(value)},\n`;
  yield* listPart('recordsShownAsTheirs', recordsOf(of));
  yield ',\n';
  yield* listPart('changesTheyMade', changesBy(member));
  yield ',\n';
  yield* listPart('inTheLog', logOf(member));
  yield '\n}\n';
}

const json = (value: unknown): string =>
  JSON.stringify(value, (_, each: unknown) => (typeof each === 'bigint' ? String(each) : each), 1);

async function* listPart(name: string, items: AsyncIterable<unknown>): AsyncGenerator<string> {
  let isFirst = true;
  yield `${JSON.stringify(name)}: [`;
  for await (const item of items) {
    yield `${isFirst ? '' : ','}\n${json(item)}`;
    isFirst = false;
  }
  yield ']';
}

const roleName = ({ asBuilder }: FileOf, role: string): string =>
  asBuilder.definition.roles.find(({ id }) => id === role)?.name ?? role;

const tableName = ({ definition }: PlacedVisit, table: string): string =>
  definition.tables[table]?.label ?? plainLabel(table);

/** A record by the labels of its columns. */
function labelled(
  { definition }: PlacedVisit,
  table: string,
  { values, masked }: Pick<ViewRecord, 'values' | 'masked'>,
) {
  const label = (path: string) => columnLabel(definition, table, readPath(path)?.[0] ?? path, plainLabel);
  const shown: Record<string, Value> = {};
  for (const [path, value] of Object.entries(values)) {
    // Two columns may be called alike; neither is lost.
    const own = label(path);
    shown[Object.hasOwn(shown, own) ? `${own} (${path})` : own] = value;
  }
  return { values: shown, ...(masked.length > 0 ? { shownMasked: masked.map(label) } : {}) };
}

async function rowsOfRosters({ member, asBuilder }: FileOf): Promise<unknown[]> {
  const memberships = await Membership.findAll({ where: { memberId: member.id } });
  return Promise.all(
    memberships.map(async ({ rosterTable, rowKey }) => {
      const of = { table: tableName(asBuilder, rosterTable), key: rowKey };
      try {
        const there = await at(asBuilder, rosterTable);
        return { ...of, ...labelled(there, rosterTable, await read(there.source, there, rosterTable, rowKey)) };
      } catch (error) {
        if (error instanceof NotFound) return { ...of, gone: true };
        throw error;
      }
    }),
  );
}

async function* recordsOf({ asThey, tables }: FileOf): AsyncGenerator<unknown> {
  if (!asThey) return;
  for (const name of tables) {
    const table = tableName(asThey, name);
    try {
      const there = await at(asThey, name);
      for await (const page of ownRecords(there, name))
        for (const record of page) yield { table, id: record.id, ...labelled(there, name, record) };
    } catch (error) {
      // The rest of the file is worth having, and says what is missing.
      if (!isSourceAway(error)) throw error;
      yield { table, notReadNow: true };
    }
  }
}

const mailsTo = async (member: Member): Promise<unknown[]> =>
  (await OutboxMail.findAll({ where: { memberId: member.id }, order: [['id', 'ASC']] })).map(
    // What a mail leads in by is sealed, and no part of its words here.
    ({ kind, recipient, subject, text, state, madeAt, sentAt }) => ({
      kind,
      recipient,
      subject,
      text,
      state,
      madeAt,
      sentAt,
    }),
  );

async function hungBy({ portal, member, asBuilder }: FileOf): Promise<unknown[]> {
  const comments = await Comment.findAll({ where: { memberId: member.id }, order: [['id', 'ASC']] });
  const ids = [...new Set(comments.map(({ recordId }) => Number(recordId)))];
  const records = await DiscussedRecord.findAll({ where: { id: ids, portalId: portal.id } });
  const files = comments.flatMap(({ fileId }) => fileId ?? []);
  const named = await StoredFile.findAll({ where: { id: files }, attributes: ['id', 'name'] });
  return comments.map(({ recordId, writtenAt, text, fileId, aboutColumn, meant }) => {
    const record = records.find(({ id }) => id === Number(recordId));
    return {
      table: record ? tableName(asBuilder, record.tableName) : null,
      record: record?.recordKey ?? null,
      at: writtenAt,
      ...(fileId === null ? { text } : { file: named.find(({ id }) => id === fileId)?.name ?? null }),
      ...(aboutColumn === null ? {} : { saysWrong: aboutColumn, meant }),
    };
  });
}

const signUpsOf = async ({ portalId, email }: Member): Promise<unknown[]> =>
  (await SignUpRequest.findAll({ where: { portalId, email } })).map(({ signUp, content, state, madeAt }) => ({
    signUp,
    content: JSON.parse(content) as unknown,
    state,
    madeAt,
  }));

/** Other portals that know the address, of those that whoever takes the file builds. */
async function alsoIn({ member: { portalId, email }, builder }: FileOf): Promise<string[]> {
  const others = await Member.findAll({ where: { email, portalId: { [Op.ne]: portalId } } });
  const portals = await Portal.findAll({ where: { id: others.map((each) => each.portalId) } });
  return portals.filter(({ id }) => mayBuild(builder, id)).map(({ slug }) => slug);
}

async function* changesBy({ portalId, id: memberId }: Member): AsyncGenerator<unknown> {
  for (let after = 0, isMore = true; isMore;) {
    const found = await KeptChange.findAll({
      where: { portalId, memberId, id: { [Op.gt]: after } },
      attributes: ['id', 'tableName', 'recordId', 'at', 'made', 'action', 'form'],
      order: [['id', 'ASC']],
      limit: pageSize,
    });
    for (const { tableName: table, recordId: record, at: when, made, action, form } of found)
      yield { at: when, table, record, made, action, form };
    isMore = found.length === pageSize;
    after = found.at(-1)?.id ?? 0;
  }
}

/** What they did, and what others did about them: exports, readings as them, roles, invitations. */
async function* logOf({ portalId, email }: Member): AsyncGenerator<unknown> {
  const words = { [Op.like]: `%${email.replaceAll(/[\\%_]/g, (sign) => `\\${sign}`)}%` };
  // Only as a whole address: another may end alike.
  const whole = new RegExp(`(^|[^\\w.+-])${email.replaceAll(/[^\w]/g, '\\$&')}($|[^\\w.-]|\\.(\\s|$))`, 'i');
  for (let after = 0, isMore = true; isMore;) {
    const found: AuditEntry[] = await AuditEntry.findAll({
      where: { portalId, id: { [Op.gt]: after }, [Op.or]: [{ who: words }, { about: words }] },
      order: [['id', 'ASC']],
      limit: pageSize,
    });
    for (const { at: when, who, what, about } of found)
      if (whole.test(who) || whole.test(about)) yield { at: when, who, what, about };
    isMore = found.length === pageSize;
    after = Number(found.at(-1)?.id ?? 0);
  }
}
