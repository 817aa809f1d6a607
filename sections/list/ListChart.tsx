import { useListState } from '../../web/place/place';
import { Notice } from '../../web/ui/Notice';
import { ChartOf } from '../chart/Show';
import { readDrawn } from '../chart/drawn-by';
import type { ShowProps } from '../show';
import { offeredColumns } from './arranged';

/** A list drawn as whoever looks chose: over what it holds now, its groups leading to their records in it. */
export default function ListChart({ section }: ShowProps<'list'>) {
  const { state } = useListState(section.id);
  const drawn = readDrawn(state.chart);
  const at = (path: string | undefined) => offeredColumns(section).find((column) => column.path === path) ?? null;
  const [by, column] = [at(drawn?.by.column), at(drawn?.column)];
  if (!drawn || !by || (drawn.column !== undefined && !column))
    return <Notice kind="say">This list can't be drawn so any more. Choose another chart where it is arranged.</Notice>;
  return (
    <ChartOf
      draw={state.chart}
      section={{
        kind: 'chart',
        id: section.id,
        label: section.label,
        form: drawn.form,
        measure: drawn.measure,
        column,
        by: { column: by, step: drawn.by.step ?? null },
        series: null,
        line: null,
        follows: section.id,
        opens: section.id,
        open: true,
      }}
    />
  );
}
