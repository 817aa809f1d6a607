import { problemText } from '../../web/client/http';
import { useFigure, type FigureTaken } from '../../web/client/numbers';
import { useListState, usePlace } from '../../web/place/place';
import { numberWords, shownNumber } from '../../web/records/numbers';
import { Button } from '../../web/ui/Button';
import { Notice, Skeleton } from '../../web/ui/Notice';
import type { ShowProps } from '../show';

type FigureInfo = ShowProps<'figure'>['section'];

/** One number, what it is of, and what it is held against. */
export default function FigureShow({ section }: ShowProps<'figure'>) {
  const { base, spot } = usePlace();
  const { state } = useListState(section.follows ?? '');
  const { search, filter } = state;
  const answer = useFigure(base, spot.page, section.id, { search, filter }, section.open && !section.away);
  const noun = section.label.toLowerCase();
  if (section.away)
    return (
      <Notice kind="warn">The place that holds {noun} can&apos;t be reached at the moment. Try again later.</Notice>
    );
  if (!section.open) return <Notice kind="say">Nothing of {noun} is open to you here.</Notice>;
  return (
    <div className="grid gap-1 rounded-stone border border-line bg-paper px-4 py-3">
      <p className="text-sm text-soft">{numberWords(section)}</p>
      {answer.isPending && <Skeleton lines={1} />}
      {answer.isError && (
        <Notice
          kind="fault"
          action={
            <Button small onClick={() => void answer.refetch()}>
              Try again
            </Button>
          }
        >
          {problemText(answer.error)}
        </Notice>
      )}
      {answer.data && (
        <>
          <p className="font-head text-3xl font-bold tabular-nums">
            <Number taken={answer.data.taken} section={section} />
          </p>
          {answer.data.against && (
            <p className="text-sm text-soft tabular-nums">
              <Number taken={answer.data.against} section={section} /> {section.against}
            </p>
          )}
        </>
      )}
    </div>
  );
}

function Number({ taken, section }: { taken: FigureTaken['taken']; section: FigureInfo }) {
  if ('tooFew' in taken) return <span className="text-base font-normal text-soft">too few to tell</span>;
  const { number, leftOut } = taken;
  return (
    <>
      {shownNumber(section, number)}
      {leftOut > 0 && (
        <span className="text-sm font-normal text-soft"> without {leftOut.toLocaleString()} that are hidden</span>
      )}
    </>
  );
}
