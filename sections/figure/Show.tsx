import { useFigure, type FigureTaken } from '../../web/client/numbers';
import { useListState, usePlace } from '../../web/place/place';
import { Answered, NothingOf } from '../../web/records/Answered';
import { numberWords, shownNumber } from '../../web/records/numbers';
import type { ShowProps } from '../show';

type FigureInfo = ShowProps<'figure'>['section'];

/** One number, what it is of, and what it is held against. */
export default function FigureShow({ section }: ShowProps<'figure'>) {
  const { base, spot } = usePlace();
  const { state } = useListState(section.follows ?? '');
  const { view, search, filter } = state;
  const answer = useFigure(base, spot.page, section.id, { view, search, filter }, section.open && !section.away);
  const noun = section.label.toLowerCase();
  if (section.away || !section.open) return <NothingOf noun={noun} away={section.away === true} />;
  return (
    <div className="grid grow content-start gap-1 rounded-stone border border-line bg-paper px-4 py-3">
      <p className="text-sm text-soft">{numberWords(section)}</p>
      <Answered answer={answer} lines={1}>
        {({ taken, against }) => (
          <>
            <p className="font-head text-3xl font-bold tabular-nums">
              <Number taken={taken} section={section} />
            </p>
            {against && (
              <p className="text-sm text-soft tabular-nums">
                <Number taken={against} section={section} /> {section.against}
              </p>
            )}
          </>
        )}
      </Answered>
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
