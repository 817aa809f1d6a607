import { lazy, Suspense, useState } from 'react';
import { recordAddress } from '../../web/client/portal';
import { usePlace, type ListState } from '../../web/place/place';
import { Menu } from '../../web/ui/Menu';
import { buttonLook } from '../../web/ui/Button';

const SheetJob = lazy(() => import('./SheetJob'));

const formats = [
  ['csv', 'For a spreadsheet (CSV)'],
  ['json', 'For a program (JSON)'],
] as const;

type Asked = Pick<ListState, 'view' | 'columns' | 'search' | 'filter' | 'sort'>;

/** Takes what the list finds out as a file. */
export default function TakeOut({
  section,
  state: { view, columns, search, filter, sort },
  total,
  noun,
}: {
  section: string;
  state: ListState;
  total: number | null;
  noun: string;
}) {
  const { base, spot, seenBy, isVisitor } = usePlace();
  const [sheet, setSheet] = useState<{ turn: number; asked: Asked } | null>(null);
  const take = (format: (typeof formats)[number][0]) => {
    const link = document.createElement('a');
    const kept = Object.entries({ view, columns, search, filter, sort }).filter(([, value]) => value !== '');
    const query = { format, guard: true, ...Object.fromEntries(kept) };
    link.href = recordAddress(base)('GET /pages/:page/:section/file', { params: { page: spot.page, section }, query });
    link.download = '';
    link.click();
  };
  return (
    <>
      {sheet && (
        <Suspense>
          <SheetJob key={sheet.turn} section={section} asked={sheet.asked} noun={noun} onOver={() => setSheet(null)} />
        </Suspense>
      )}
      <Menu
        align="end"
        button={{ className: buttonLook('plain'), children: 'Take out' }}
        entries={() => [
          ...(total === null ? [] : [{ words: `${total.toLocaleString()} ${noun}` }]),
          // Work in the background belongs to a member.
          ...(seenBy || isVisitor
            ? []
            : [
                {
                  key: 'xlsx',
                  label: 'As a spreadsheet (XLSX)',
                  onSelect: () =>
                    setSheet({ turn: (sheet?.turn ?? 0) + 1, asked: { view, columns, search, filter, sort } }),
                },
              ]),
          ...formats.map(([format, label]) => ({ key: format, label, onSelect: () => take(format) })),
        ]}
      />
    </>
  );
}
