import { lazy, Suspense, useState } from 'react';
import { Image } from 'lucide-react';
import { useSectionList, type ColumnInfo, type ListAnswer } from '../../web/client/portal';
import { pictureOfRecord } from '../../web/client/attachments';
import { SpotLink, useListState, usePlace } from '../../web/place/place';
import { Answered, NothingOf } from '../../web/records/Answered';
import { pictureAddress } from '../../web/records/Cell';
import { fileAddressOf } from '../../web/records/FileLink';
import { RecordCell } from '../../web/records/RecordCell';
import { Notice } from '../../web/ui/Notice';
import { Pager } from '../../web/records/Pager';
import { calledOf } from '../list/called';
import type { ShowProps } from '../show';

const RowActs = lazy(() => import('../../web/records/RowActs'));

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
  if (section.away || section.columns.length === 0) return <NothingOf noun={noun} away={section.away === true} />;
  return (
    <Answered answer={answer} lines={6}>
      {(cards) =>
        cards.total === 0 ? (
          <Notice kind="say">There is nothing here yet. When {noun} are entered for you, they appear here.</Notice>
        ) : (
          <div className="grid gap-3">
            <ul className={`grid gap-3 ${grids[section.cardsAcross] ?? ''}`}>
              {cards.records.map((record, place) => (
                <li key={record.id} className="grid content-start gap-1">
                  <Card section={section} record={record} />
                  {section.acts.length > 0 && (
                    <Suspense>
                      <RowActs
                        table={section.table}
                        acts={section.acts}
                        {...(cards.acts ? { offered: cards.acts[place]! } : {})}
                        record={record}
                        called={calledOf(record, section.columns[0]!)}
                      />
                    </Suspense>
                  )}
                </li>
              ))}
            </ul>
            {cards.records.length < cards.total && <Pager section={section.id} answer={cards} noun={noun} />}
          </div>
        )
      }
    </Answered>
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
      {section.pictureOfFiles && record.id !== null ? (
        <Shown address={pictureOfRecord(base, section.table, record.id)} />
      ) : (
        section.picture && <Picture section={section} picture={section.picture} record={record} />
      )}
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
  return <Shown address={address} />;
}

/** A picture in its place; without one, or where it can't be had, the place alone. */
function Shown({ address }: { address: string | null }) {
  const [failed, setFailed] = useState<string | null>(null);
  return (
    <span className="grid aspect-[16/9] place-items-center overflow-hidden border-b border-line bg-sunk text-soft">
      {address === null || address === failed ? (
        <Image size={28} aria-hidden />
      ) : (
        <img
          src={address}
          alt=""
          loading="lazy"
          referrerPolicy="no-referrer"
          className="size-full object-cover"
          onError={() => setFailed(address)}
        />
      )}
    </span>
  );
}

const isEmpty = (value: unknown) =>
  value === undefined || value === null || value === '' || (Array.isArray(value) && value.length === 0);
