import { problemText } from '../../web/client/http';
import { useFigure, type ColumnInfo, type FigureTaken } from '../../web/client/portal';
import { usePlace } from '../../web/place/place';
import { Cell } from '../../web/records/Cell';
import { Button } from '../../web/ui/Button';
import { Notice, Skeleton } from '../../web/ui/Notice';
import type { ShowProps } from '../show';

const words = {
  count: 'Number of',
  sum: 'Sum of',
  average: 'Average of',
  minimum: 'Least of',
  maximum: 'Most of',
  distinct: 'Different values of',
} as const;

type FigureInfo = ShowProps<'figure'>['section'];

/** One number, what it is of, and what it is held against. */
export default function FigureShow({ section }: ShowProps<'figure'>) {
  const { base, spot } = usePlace();
  const answer = useFigure(base, spot.page, section.id, section.open && !section.away);
  const noun = section.label.toLowerCase();
  if (section.away)
    return (
      <Notice kind="warn">The place that holds {noun} can&apos;t be reached at the moment. Try again later.</Notice>
    );
  if (!section.open) return <Notice kind="say">Nothing of {noun} is open to you here.</Notice>;
  const of = section.column ? `${section.column.label.toLowerCase()} of ${noun}` : noun;
  return (
    <div className="grid gap-1 rounded-stone border border-line bg-paper px-4 py-3">
      <p className="text-sm text-soft">
        {words[section.measure]} {of}
      </p>
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
  const column = valueColumn(section);
  return (
    <>
      {number === null ? '–' : column ? <Cell {...column} value={number} masked={false} plain /> : plain(number)}
      {leftOut > 0 && (
        <span className="text-sm font-normal text-soft"> without {leftOut.toLocaleString()} that are hidden</span>
      )}
    </>
  );
}

/** How the column's own values are shown, where the figure is one of them or adds them up. */
function valueColumn({ measure, column }: FigureInfo): { type: ColumnInfo['type']; notes: ColumnInfo } | null {
  const isOfColumn = measure === 'minimum' || measure === 'maximum' || measure === 'sum';
  return column && isOfColumn ? { type: column.type, notes: column } : null;
}

const fine = new Intl.NumberFormat(undefined, { maximumFractionDigits: 2 });
/** Exact numbers come as decimal text. */
const plain = (value: unknown): string =>
  typeof value === 'string' && /^-?\d+(\.\d+)?$/.test(value)
    ? fine.format(value as `${number}`)
    : fine.format(value as number);
