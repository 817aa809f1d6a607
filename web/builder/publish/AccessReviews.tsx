import { useState } from 'react';
import { Link, useSearchParams } from 'react-router';
import { Download, Printer } from 'lucide-react';
import { counted } from '../../../core/text/counted';
import { reviewFile, useReview, useReviewing, useReviews, type ReviewTold } from '../../client/access-reviews';
import { problemText } from '../../client/http';
import { dayText, minuteText } from '../../records/member-words';
import { Button, buttonLook } from '../../ui/Button';
import { DataTable, Unseen } from '../../ui/DataTable';
import { Notice, Skeleton } from '../../ui/Notice';
import { Select } from '../../ui/Select';
import { useBench } from '../bench/bench-context';
import { useNames } from '../bench/names';
import { StageHead } from '../bench/StageFrame';
import { ReviewedLine } from './ReviewedLine';

/** Who sees what, sent to a colleague and signed line by line; the next time only what changed is asked. */
export function AccessReviews() {
  const [params] = useSearchParams();
  const open = Number(params.get('review'));
  return open > 0 ? <OneReview id={open} /> : <AllReviews />;
}

function AllReviews() {
  const { slug, to, state } = useBench();
  const reviews = useReviews(slug);
  const { begin } = useReviewing(slug);
  const [picked, setPicked] = useState('');
  const colleagues = reviews.data?.colleagues ?? [];
  const who = picked || String(colleagues[0]?.id ?? '');
  return (
    <>
      <StageHead title="Access reviews" />
      <div className="grid gap-5 p-4">
        <p className="max-w-160 text-soft">
          What each role may do on each table, and who has it, is sent to a colleague, who signs each line as right or
          wrong. What was signed as right and is the same since is not asked again.
        </p>
        <form
          className="flex flex-wrap items-center gap-2"
          onSubmit={(event) => {
            event.preventDefault();
            begin.mutate(Number(who));
          }}
        >
          Send version {state.publishedVersion ?? '–'} to{' '}
          <Select aria-label="Colleague who signs" className="w-auto" value={who} onPick={setPicked}>
            {colleagues.map(({ id, name }) => (
              <option key={id} value={id}>
                {name}
              </option>
            ))}
          </Select>
          <Button
            type="submit"
            weight="main"
            disabled={begin.isPending || who === '' || state.publishedVersion === null}
          >
            Send it
          </Button>
        </form>
        {begin.isError && <Notice kind="fault">{problemText(begin.error)}</Notice>}
        {reviews.isPending && <Skeleton />}
        {reviews.isError && <Notice kind="fault">{problemText(reviews.error)}</Notice>}
        {reviews.data?.reviews.length === 0 && <p className="text-soft">None was sent yet.</p>}
        {(reviews.data?.reviews.length ?? 0) > 0 && (
          <DataTable
            label="Access reviews"
            head={['Sent', 'Version', 'Signed by', 'State', <Unseen key="do">Open</Unseen>]}
          >
            {reviews.data!.reviews.map((review) => (
              <tr key={review.id}>
                <td className="whitespace-nowrap">{dayText(review.madeAt)}</td>
                <td>{review.version}</td>
                <td>{review.reviewer}</td>
                <td>{stateOf(review)}</td>
                <td>
                  <Link to={to('publish', 'reviews', { review: String(review.id) })}>
                    {review.mine && review.open > 0 ? 'Sign it' : 'Look at it'}
                  </Link>
                </td>
              </tr>
            ))}
          </DataTable>
        )}
      </div>
    </>
  );
}

function stateOf({ lines, open, wrong, doneAt }: ReviewTold['review']): string {
  const found = wrong > 0 ? `, ${wrong.toLocaleString()} wrong` : '';
  return doneAt
    ? `signed on ${dayText(doneAt)}${found}`
    : `${open.toLocaleString()} of ${lines.toLocaleString()} open${found}`;
}

function OneReview({ id }: { id: number }) {
  const { slug, to } = useBench();
  const names = useNames();
  const told = useReview(slug, id);
  const lines = (told.data?.lines ?? []).map((line, place) => ({ line, place }));
  const carried = lines.filter(({ line }) => line.carried);
  const asked = lines.filter(({ line }) => !line.carried);
  const roles = [...new Set(asked.map(({ line }) => line.role))];
  const review = told.data?.review;
  return (
    <>
      <StageHead
        title={
          <>
            <Link to={to('publish', 'reviews')} className="mr-2 text-base font-normal">
              Access reviews
            </Link>
            {review ? `Version ${review.version}` : ''}
          </>
        }
      >
        <a className={buttonLook('plain', true)} href={reviewFile(slug, id)} download>
          <Download size={15} aria-hidden /> CSV
        </a>
        <Button small onClick={() => window.print()}>
          <Printer size={15} aria-hidden /> Print
        </Button>
      </StageHead>
      <div className="grid gap-4 p-4">
        {told.isPending && <Skeleton />}
        {told.isError && <Notice kind="fault">{problemText(told.error)}</Notice>}
        {review && (
          <p className="text-soft">
            Sent by {review.madeBy} on {minuteText(review.madeAt)} to {review.reviewer}: {stateOf(review)}.
          </p>
        )}
        {carried.length > 0 && (
          <Notice kind="say">
            {counted(carried.length, 'line')} {carried.length === 1 ? 'is' : 'are'} as signed before and not asked
            again.
          </Notice>
        )}
        {roles.map((role) => (
          <section key={role} aria-label={names.role(role)} className="grid gap-2">
            <h2 className="text-base">{names.role(role)}</h2>
            {asked
              .filter(({ line }) => line.role === role)
              .map(({ line, place }) => (
                <ReviewedLine key={place} review={id} place={place} line={line} mine={review?.mine ?? false} />
              ))}
          </section>
        ))}
      </div>
    </>
  );
}
