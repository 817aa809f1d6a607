import { useEffect, useRef } from 'react';
import { useCounts } from '../../web/client/numbers';
import { SpotLink, useListState, usePlace } from '../../web/place/place';
import type { ShowProps } from '../show';

type ListInfo = ShowProps<'list'>['section'];

/** The views of a list that are there from the start, each with how many records it holds. */
export default function Tabs({ section, noun }: { section: ListInfo; noun: string }) {
  const { base, spot } = usePlace();
  const { state, inTab } = useListState(section.id);
  const counts = useCounts(base, spot.page, section.id);
  const current = section.tabs.find(({ id }) => id === state.view) ?? section.tabs[0]!;
  const nav = useRef<HTMLElement>(null);
  // On a narrow screen it may stand beside what is seen of them; nothing but the tabs moves.
  useEffect(() => {
    const [row, tab] = [nav.current, nav.current?.querySelector<HTMLElement>('[aria-current]')];
    if (row && tab)
      row.scrollLeft = Math.max(0, tab.offsetLeft - row.offsetLeft - (row.clientWidth - tab.offsetWidth) / 2);
  }, [current.id]);
  return (
    <nav ref={nav} aria-label={`Views of ${noun}`} className="no-print flex overflow-x-auto border-b border-line">
      {section.tabs.map(({ id, name }, place) => {
        const count = counts.data?.counts.find(({ tab }) => tab === id)?.count;
        const here = id === current.id;
        return (
          <SpotLink
            key={id}
            to={inTab(place === 0 ? '' : id)}
            aria-current={here || undefined}
            className={
              'flex min-h-10 items-baseline gap-2 border-b-3 px-3 pt-2 pb-1 whitespace-nowrap no-underline ' +
              (here ? 'border-water font-semibold text-ink' : 'border-transparent text-soft hover:text-ink')
            }
          >
            {name}
            {/* Its place is kept while it is counted. */}
            <span className="min-w-4 text-right text-sm font-normal tabular-nums">{count?.toLocaleString() ?? ''}</span>
          </SpotLink>
        );
      })}
    </nav>
  );
}
