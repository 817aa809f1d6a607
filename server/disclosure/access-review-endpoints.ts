import Joi from 'joi';
import type { ReviewedRights, ReviewLine } from '../../core/access/review-lines';
import { writeAudit } from '../audit/audit';
import { openDraft, type BenchServices, type OpenDraft } from '../bench/bench';
import { cellText, csvLine } from '../formats/export-text';
import { NotFound } from '../gate/gate';
import { form, listOf, moment, said, whole, yesNo } from '../http/answers';
import { endpoint, FileAnswer, ownNumber, reply } from '../http/endpoint';
import { readAddress } from '../mail/own-address';
import { callingTo } from '../people/calling';
import { mayBuild } from '../sessions/as-builder';
import { builderMail } from '../sessions/builder-links';
import { Builder } from '../store/models';
import { Member } from '../store/people-models';
import { AccessReview } from '../store/review-model';
import { beginReview, linesOf, reviewOf, signLine, type KeptLine, type Signed } from './access-reviews';

/** A review in short. */
interface ReviewInShort {
  id: number;
  version: number;
  madeBy: string;
  madeAt: string;
  reviewer: string;
  /** Whether whoever looks is to sign it. */
  mine: boolean;
  lines: number;
  open: number;
  wrong: number;
  doneAt: string | null;
}

/** A line as it is told: people by what they are called, to whoever looks. */
interface ToldLine {
  role: string;
  /** Null where it is about who has the role. */
  table: string | null;
  rights: ReviewedRights | null;
  /** What was signed before in its place. */
  wasRights: ReviewedRights | null;
  people: { all: number; came: string[]; went: string[]; isFirst: boolean } | null;
  signed: Signed | null;
  carried: boolean;
}

const inShort = {
  id: whole,
  version: whole,
  madeBy: said,
  madeAt: moment,
  reviewer: said,
  mine: yesNo,
  lines: whole,
  open: whole,
  wrong: whole,
  doneAt: moment.allow(null),
};

const rights = form<ReviewedRights>({
  rows: said,
  whole: listOf(said),
  masked: listOf(form<ReviewedRights['masked'][number]>({ column: said, mask: said })),
  changes: listOf(said),
  fills: listOf(said),
  deletes: yesNo,
  exports: yesNo,
  does: listOf(said),
  comments: listOf(said),
  files: listOf(said),
  history: yesNo,
});

const toldLine = form<ToldLine>({
  role: said,
  table: said.allow(null),
  rights: rights.allow(null),
  wasRights: rights.allow(null),
  people: form<NonNullable<ToldLine['people']>>({
    all: whole,
    came: listOf(said),
    went: listOf(said),
    isFirst: yesNo,
  }).allow(null),
  signed: form<Signed>({ says: Joi.valid('right', 'wrong'), remark: said, by: said, at: moment }).allow(null),
  carried: yesNo,
});

/** Reviews of who sees what, sent to a colleague and signed line by line. */
export function accessReviewEndpoints(services: BenchServices) {
  const entry = openDraft(services);
  const one = { review: ownNumber };
  return {
    accessReviews: endpoint({
      method: 'GET',
      path: '/access-reviews',
      says: 'Reviews of who sees what, the newest first, and the colleagues to whom one can be sent.',
      entry,
      answers: {
        200: form<{ reviews: ReviewInShort[]; colleagues: { id: number; name: string }[] }>({
          reviews: listOf(form<ReviewInShort>(inShort)),
          colleagues: listOf(form<{ id: number; name: string }>({ id: whole, name: said })),
        }),
      },
      does: async ({ portal, builder }) => {
        const reviews = await AccessReview.findAll({
          where: { portalId: portal.id },
          order: [['id', 'DESC']],
          limit: 100,
        });
        const builders = await Builder.findAll({ where: { suspended: false }, order: [['name', 'ASC']] });
        return {
          reviews: reviews.map((review) => shortOf(review, builder)),
          colleagues: builders.filter((each) => mayBuild(each, portal.id)).map(({ id, name }) => ({ id, name })),
        };
      },
    }),
    beginAccessReview: endpoint({
      method: 'POST',
      path: '/access-reviews',
      says: 'Sends who sees what of the published version to a colleague to be signed; only what changed is asked.',
      entry,
      body: Joi.object<{ builder: number }>({ builder: ownNumber.required() }),
      answers: { 201: form<{ id: number }>({ id: whole }) },
      does: async ({ portal, builder, signed, draft, body }) => {
        const reviewer = await Builder.findOne({ where: { id: body.builder, suspended: false } });
        if (!reviewer || !mayBuild(reviewer, portal.id)) throw new NotFound('colleague');
        const review = await beginReview(services, portal.id, signed, reviewer);
        const { name } = draft.definition.portal;
        await writeAudit(
          portal.id,
          signed,
          'asked for an access review',
          `of version ${review.version}, by ${review.reviewer}`,
        );
        if (reviewer.id !== builder.id && review.doneAt === null) {
          const link = `${await readAddress(null)}/build/${portal.slug}/publish/reviews?review=${review.id}`;
          const says = `${builder.name} asks you to look through who sees what in ${name}, and to sign each line.`;
          await services.outbox.queue([builderMail(reviewer, `Who sees what in ${name}`, says, link)]);
        }
        return reply(201, { id: review.id });
      },
    }),
    accessReview: endpoint({
      method: 'GET',
      path: '/access-reviews/:review',
      says: 'A review with its lines, what was signed and what changed since the one before.',
      entry,
      params: one,
      answers: {
        200: form<{ review: ReviewInShort; lines: ToldLine[] }>({
          review: form<ReviewInShort>(inShort),
          lines: listOf(toldLine),
        }),
      },
      does: async ({ portal, builder, draft, params }) => {
        const review = await reviewOf(portal.id, params.review);
        return { review: shortOf(review, builder), lines: await toldLines(draft, linesOf(review)) };
      },
    }),
    signAccessLine: endpoint({
      method: 'PUT',
      path: '/access-reviews/:review/lines/:line',
      says: 'Signs a line as right or wrong, with a remark; of the portal nothing is changed.',
      entry,
      // Whoever only looks may be the one whom it is sent to.
      reads: true,
      params: { ...one, line: Joi.number().integer().min(0).max(1e6) },
      body: Joi.object<Pick<Signed, 'says' | 'remark'>>({
        says: Joi.valid('right', 'wrong').required(),
        remark: Joi.when('says', {
          is: 'wrong',
          then: Joi.string().trim().min(3).max(1000).required(),
          otherwise: Joi.string().trim().allow('').max(1000).default(''),
        }),
      }),
      answers: { 200: form<{ done: boolean }>({ done: yesNo }) },
      does: async ({ portal, builder, signed, params: { review, line }, body }) => {
        const done = await signLine(services, portal.id, review, line, builder, body);
        if (done) {
          const ended = await reviewOf(portal.id, review);
          const { wrong } = shortOf(ended, builder);
          await writeAudit(portal.id, signed, 'signed an access review', `of version ${ended.version}: ${wrong} wrong`);
        }
        return { done };
      },
    }),
    accessReviewFile: endpoint({
      method: 'GET',
      path: '/access-reviews/:review/file',
      says: 'A review as a file: each line with what was signed.',
      entry,
      params: one,
      answers: { 200: new FileAnswer('text/csv; charset=utf-8') },
      does: async ({ portal, draft, params, res }) => {
        const review = await reviewOf(portal.id, params.review);
        const role = (id: string) => draft.definition.roles.find((each) => each.id === id)?.name ?? id;
        const heads = ['role', 'table', 'what they may', 'signed', 'remark', 'by', 'at'];
        const lines = linesOf(review).map(({ line, signed }) => [
          role(line.role),
          line.kind === 'people' ? '' : line.table,
          lineWords(line),
          ...(signed ? [signed.says, signed.remark, signed.by, signed.at] : ['', '', '', '']),
        ]);
        res
          .attachment(`${portal.slug}-access-review-${review.id}.csv`)
          .type('text/csv; charset=utf-8')
          .send(csvLine(heads) + lines.map((cells) => csvLine(cells.map((cell) => cellText(cell, true)))).join(''));
      },
    }),
  };
}

function shortOf(review: AccessReview, builder: Builder): ReviewInShort {
  const lines = linesOf(review);
  return {
    id: review.id,
    version: review.version,
    madeBy: review.madeBy,
    madeAt: review.madeAt.toISOString(),
    reviewer: review.reviewer,
    mine: Number(review.builderId) === builder.id,
    lines: lines.length,
    open: lines.filter(({ signed }) => !signed).length,
    wrong: lines.filter(({ signed }) => signed?.says === 'wrong').length,
    doneAt: review.doneAt?.toISOString() ?? null,
  };
}

async function toldLines(draft: OpenDraft, lines: readonly KeptLine[]): Promise<ToldLine[]> {
  const calling = await callingTo(draft, draft.portal.id);
  const moved = lines.map(({ line, was }) => {
    const [now, before] = [line, was].map((each) => (each?.kind === 'people' ? each.people : []));
    return { came: now!.filter((id) => !before!.includes(id)), went: before!.filter((id) => !now!.includes(id)) };
  });
  const ids = [...new Set(moved.flatMap(({ came, went }) => [...came, ...went]))];
  const members = await Member.findAll({ where: { portalId: draft.portal.id, id: ids }, attributes: ['id', 'name'] });
  const names = new Map(members.map(({ id, name }) => [id, calling.name(name)]));
  const called = (of: number[]) => of.map((id) => names.get(id) ?? 'somebody who is gone');
  return lines.map(({ line, was, signed, carried }, i) => ({
    role: line.role,
    table: line.kind === 'people' ? null : line.table,
    rights: line.kind === 'people' ? null : line.rights,
    wasRights: was?.kind === 'rights' ? was.rights : null,
    people:
      line.kind === 'people'
        ? { all: line.people.length, came: called(moved[i]!.came), went: called(moved[i]!.went), isFirst: was === null }
        : null,
    signed,
    carried,
  }));
}

/** What a line says, in words. */
function lineWords(line: ReviewLine): string {
  if (line.kind === 'people') return `${line.people.length} have it`;
  const { rows, whole: seen, masked, changes, fills, deletes, exports, does, comments, files, history } = line.rights;
  const part = (word: string, of: readonly string[]) => (of.length > 0 ? [`${word} ${of.join(', ')}`] : []);
  return [
    rows,
    ...part('see', seen),
    ...part(
      'see masked',
      masked.map(({ column, mask }) => `${column} (${mask})`),
    ),
    ...part('change', changes),
    ...part('fill', fills),
    ...(deletes ? ['delete'] : []),
    ...(exports ? ['export'] : []),
    ...part('do', does),
    ...part('comments:', comments),
    ...part('files:', files),
    ...(history ? ['read what changed'] : []),
  ].join('; ');
}
