import { Op } from 'sequelize';
import { lineKey, reviewLines, type ReviewLine } from '../../core/access/review-lines';
import { Problem } from '../../core/refusals/problem';
import type { CoreServices } from '../definitions/portal-services';
import { NotFound } from '../gate/gate';
import { everyone } from '../people/everyone';
import { Portal, type Builder } from '../store/models';
import { AccessReview } from '../store/review-model';

/** What somebody said of a line, and when. */
export interface Signed {
  says: 'right' | 'wrong';
  remark: string;
  by: string;
  at: string;
}

/** A line as it is kept: what it says, and what was said of it. */
export interface KeptLine {
  line: ReviewLine;
  signed: Signed | null;
  /** Whether it was signed in an earlier review and is the same since. */
  carried: boolean;
  /** What an earlier review had in its place, where that was signed as right and is another now. */
  was: ReviewLine | null;
}

/** Begins a review of what is live; what was signed as right before and is the same since is not asked again. */
export async function beginReview(
  services: CoreServices,
  portalId: number,
  by: string,
  reviewer: Builder,
): Promise<AccessReview> {
  const portal = await Portal.findByPk(portalId, { rejectOnEmpty: true });
  if (portal.publishedVersion === null)
    throw new Problem(409, 'nothing-published', 'Nothing is published yet, so nobody sees anything.');
  const definition = await services.definitions.version(portalId, portal.publishedVersion);
  const opened = await services.sources.of(definition);
  const { catalogue } = await services.sources.all(definition);
  const people = await everyone(opened.source, opened.catalogue, [definition], portalId);
  const before = await signedBefore(portalId);
  const lines = reviewLines(definition, catalogue, people).map((line): KeptLine => {
    const known = before.get(lineKey(line));
    const isSame = known !== undefined && JSON.stringify(known.line) === JSON.stringify(line);
    return { line, signed: isSame ? known.signed : null, carried: isSame, was: isSame ? null : (known?.line ?? null) };
  });
  return AccessReview.create({
    portalId,
    version: portal.publishedVersion,
    madeBy: by,
    madeAt: new Date(),
    builderId: reviewer.id,
    reviewer: `${reviewer.name} <${reviewer.email}>`,
    lines: JSON.stringify(lines),
    doneAt: lines.every(({ signed }) => signed) ? new Date() : null,
  });
}

/** Of each line what was last said of it, where that was that it is right. */
async function signedBefore(portalId: number): Promise<Map<string, { line: ReviewLine; signed: Signed }>> {
  const found = new Map<string, { line: ReviewLine; signed: Signed }>();
  // Each review carries on what was signed before it, so the last that were ended say all.
  const reviews = await AccessReview.findAll({
    where: { portalId, doneAt: { [Op.ne]: null } },
    order: [['id', 'DESC']],
    limit: 1,
  });
  for (const review of reviews)
    for (const { line, signed } of linesOf(review))
      if (signed?.says === 'right') found.set(lineKey(line), { line, signed });
  return found;
}

export const linesOf = (review: AccessReview): KeptLine[] => JSON.parse(review.lines) as KeptLine[];

export async function reviewOf(portalId: number, id: number): Promise<AccessReview> {
  const review = await AccessReview.findOne({ where: { portalId, id } });
  if (!review) throw new NotFound('review');
  return review;
}

/** Signs a line: whoever it was sent to, once. Gives whether the review is ended by it. */
export async function signLine(
  services: CoreServices,
  portalId: number,
  id: number,
  place: number,
  builder: Builder,
  { says, remark }: Pick<Signed, 'says' | 'remark'>,
): Promise<boolean> {
  return services.store.sequelize.transaction(async (transaction) => {
    const review = await AccessReview.findOne({ where: { portalId, id }, transaction, lock: true });
    if (!review) throw new NotFound('review');
    if (Number(review.builderId) !== builder.id)
      throw new Problem(403, 'not-yours', `This was sent to ${review.reviewer}, who alone signs it.`);
    const lines = linesOf(review);
    const line = lines[place];
    if (!line) throw new NotFound('line');
    if (line.signed) throw new Problem(409, 'signed', 'This line is signed already, and stays as it was signed.');
    line.signed = { says, remark, by: `${builder.name} <${builder.email}>`, at: new Date().toISOString() };
    const isDone = lines.every(({ signed }) => signed);
    await review.update({ lines: JSON.stringify(lines), doneAt: isDone ? new Date() : null }, { transaction });
    return isDone;
  });
}
