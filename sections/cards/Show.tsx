import { Image } from 'lucide-react';
import { problemText } from '../../web/client/http';
import { useSectionList, type ColumnInfo, type ListAnswer } from '../../web/client/portal';
import { SpotLink, useListState, usePlace } from '../../web/place/place';
import { pictureAddress } from '../../web/records/Cell';
import { fileAddressOf } from '../../web/records/FileLink';
import { RecordCell } from '../../web/records/RecordCell';
import { Button } from '../../web/ui/Button';
import { Notice, Skeleton } from '../../web/ui/Notice';
import { Pager } from '../../web/records/Pager';
import type { ShowProps } from '../show';

type CardsInfo = ShowProps<'cards'>['section'];
type CardRecord = ListAnswer['records'][number];

const grids: Record<number, string> = {
  1: '',
  2: '@min-[560px]:grid-cols-2',
  3: '@min-[560px]:grid-cols-2 @min-[800px]:grid-cols-3',
  4: '@min-[560px]:grid-cols-2 @min-[800px]:grid-cols-3 @min-[1100px]:grid-cols-4',
};

/** Records as cards: a picture, a title and some values; a card opens its record. */
export default function CardsShow({ section }: ShowProps<'cards'>) {
  const { base, spot } = usePlace();
  const { state } = useListState(section.id);
  const answer = useSectionList(base, spot.page, section.id, { ...state, size: 24 });
  const noun = section.label.toLowerCase();
  if (section.away)
    return (
      <Notice kind="warn">The place that holds {noun} can&apos;t be reached at the moment. Try again later.</Notice>
    );
  if (section.columns.length === 0) return <Notice kind="say">Nothing of {noun} is open to you here.</Notice>;
  if (answer.isPending) return <Skeleton lines={6} />;
  if (answer.isError)
    return (
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
    );
  if (answer.data.total === 0)
    return <Notice kind="say">There is nothing here yet. When {noun} are entered for you, they appear here.</Notice>;
  return (
    <div className="grid gap-3">
      <ul className={`grid gap-3 ${grids[section.across] ?? ''}`}>
        {answer.data.records.map((record) => (
          <li key={record.id}>
            <Card section={section} record={record} />
          </li>
        ))}
      </ul>
      {answer.data.records.length < answer.data.total && (
        <Pager section={section.id} answer={answer.data} noun={noun} />
      )}
    </div>
  );
}

function Card({ section, record }: { section: CardsInfo; record: CardRecord }) {
  const { base } = usePlace();
  const { at, open } = useListState(section.id);
  const [title, ...values] = section.columns;
  const isThere = ({ path }: ColumnInfo) => record.masked.includes(path) || !isEmpty(record.values[path]);
  return (
    <SpotLink
      to={at(record.id)}
      aria-current={(record.id !== null && record.id === open) || undefined}
      className={
        'grid h-full content-start overflow-hidden rounded-stone border bg-paper text-ink no-underline ' +
        `hover:border-line-strong ${record.id === open ? 'border-water' : 'border-line'}`
      }
    >
      {section.picture && <Picture section={section} picture={section.picture} record={record} />}
      <span className="grid gap-1 px-3 py-2.5">
        <span className="font-head font-bold">
          <RecordCell base={base} table={section.table} column={title!} record={record} plain />
        </span>
        {values.filter(isThere).map((column) => (
          <span key={column.path} className="flex flex-wrap gap-x-2 text-sm">
            <span className="text-soft">{column.label}</span>
            <RecordCell base={base} table={section.table} column={column} record={record} plain />
          </span>
        ))}
      </span>
    </SpotLink>
  );
}

function Picture({ section, picture, record }: { section: CardsInfo; picture: ColumnInfo; record: CardRecord }) {
  const { base } = usePlace();
  const value = record.values[picture.path];
  const isSeen = !record.masked.includes(picture.path) && !isEmpty(value);
  const address =
    !isSeen || record.id === null
      ? null
      : picture.kind === 'file'
        ? fileAddressOf(base, section.table, record.id, picture.path)
        : pictureAddress(String(value));
  return (
    <span className="grid aspect-[16/9] place-items-center overflow-hidden border-b border-line bg-sunk text-soft">
      {address === null ? (
        <Image size={28} aria-hidden />
      ) : (
        <img src={address} alt="" loading="lazy" referrerPolicy="no-referrer" className="size-full object-cover" />
      )}
    </span>
  );
}

const isEmpty = (value: unknown) => value === undefined || value === null || value === '';
