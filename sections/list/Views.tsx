import { Bookmark } from 'lucide-react';
import { useState } from 'react';
import { useKeptViews, useChangeViews, type KeptView, type Standing } from '../../web/client/kept-views';
import { useDone } from '../../web/place/done';
import { plainList, useListState, usePlace, type ListState } from '../../web/place/place';
import { buttonLook } from '../../web/ui/Button';
import MenuList from '../../web/ui/MenuList';
import type { MenuEntry } from '../../web/ui/menu-entries';
import { problemText } from '../../web/client/http';
import { KeepView } from './KeepView';

/** How the list stands, without where in it somebody is. */
const standingOf = ({ view, columns, search, filter, sort, chart }: ListState): Standing => ({
  view,
  columns,
  search,
  filter,
  sort,
  chart,
});

const isSame = (one: Standing, other: Standing) =>
  (Object.keys(one) as (keyof Standing)[]).every((key) => one[key] === other[key]);

/** The views of a list that somebody keeps or is given; it opens at once. */
export default function Views({ section, noun }: { section: string; noun: string }) {
  const { base, spot } = usePlace();
  const { state, narrow } = useListState(section);
  const views = useKeptViews(base, spot.page, section);
  const { drop } = useChangeViews(base, spot.page, section);
  const [keeping, setKeeping] = useState<{ kept: KeptView | null } | null>(null);
  const done = useDone();
  const standing = standingOf(state);
  const known = views.data?.views ?? [];
  const current = known.find((each) => each.standing && isSame(each.standing, standing));
  const isPlain = isSame(standing, standingOf({ ...plainList, view: state.view }));
  const own = known.filter(({ mine }) => mine);
  const entry = (each: KeptView): MenuEntry =>
    each.standing
      ? {
          key: `open ${each.id}`,
          label: (
            <>
              {each.name}
              {each.mine && each.roles.length + each.people.length > 0 && (
                <span className="text-sm text-soft"> · shared</span>
              )}
            </>
          ),
          onSelect: () => narrow(each.standing!),
        }
      : { words: `${each.name}: what it asks for is not here for you` };
  const entries = (): MenuEntry[] => [
    ...(views.isPending ? [{ words: 'Looking …' }] : []),
    ...(views.isError ? [{ words: problemText(views.error) }] : []),
    ...(views.data && known.length === 0
      ? [{ words: 'None is kept yet. Arrange or filter the list, then keep it.' }]
      : []),
    ...own.map(entry),
    ...(known.some(({ mine }) => !mine)
      ? [{ words: 'Shared with you' }, ...known.filter(({ mine }) => !mine).map(entry)]
      : []),
    { line: true },
    ...(isPlain ? [] : [{ key: 'keep', label: 'Keep this view …', onSelect: () => setKeeping({ kept: null }) }]),
    ...(own.length === 0
      ? []
      : [
          {
            within: 'Change',
            entries: own.map((each): MenuEntry => ({
              key: `change ${each.id}`,
              label: each.name,
              onSelect: () => setKeeping({ kept: each }),
            })),
          },
          {
            within: 'Take out',
            entries: own.map((each): MenuEntry => ({
              key: `drop ${each.id}`,
              label: each.name,
              onSelect: () =>
                drop.mutate(each.id, {
                  onSuccess: () => done({ words: `The view ${each.name} is taken out.` }),
                  onError: (error) => done({ words: problemText(error), fault: true }),
                }),
            })),
          },
        ]),
  ];
  return (
    <>
      <MenuList
        align="end"
        button={{
          className: buttonLook('plain'),
          children: (
            <>
              <Bookmark size={15} aria-hidden /> <span className="max-w-40 truncate">{current?.name ?? 'Views'}</span>
            </>
          ),
        }}
        entries={entries}
      />
      {keeping && (
        <KeepView
          key={keeping.kept?.id ?? 'new'}
          section={section}
          noun={noun}
          standing={standing}
          kept={keeping.kept}
          shareWith={views.data?.shareWith ?? null}
          onClose={() => setKeeping(null)}
        />
      )}
    </>
  );
}
