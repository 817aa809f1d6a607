import type { ReactNode } from 'react';
import type { ColumnInfo } from '../client/portal';
import type { GroupTold } from '../client/related';

/** How the columns of a sheet stand: some under headings, one or two beside each other where there is room. */
export interface Grouped {
  across: 1 | 2;
  groups: GroupTold[];
}

export const ungrouped: Grouped = { across: 1, groups: [] };

const beside = { 1: '', 2: '@min-[560px]:grid-cols-2' };

/** Columns of a record, each drawn by `draw`: those outside groups, then each group under its heading. */
export function InGroups({
  columns,
  grouped: { across, groups },
  under,
  draw,
}: {
  columns: ColumnInfo[];
  grouped: Grouped;
  /** The heading that stands over them. */
  under: 'h1' | 'h2';
  draw: (column: ColumnInfo) => ReactNode;
}) {
  const Heading = under === 'h1' ? 'h2' : 'h3';
  const within = (paths: string[]) => columns.filter(({ path }) => paths.includes(path));
  const named = groups.flatMap((group) => group.columns);
  const outside = columns.filter(({ path }) => !named.includes(path));
  return (
    <div className="@container grid gap-5">
      {outside.length > 0 && (
        <div className={`grid items-baseline gap-x-6 gap-y-3 ${beside[across]}`}>{outside.map(draw)}</div>
      )}
      {groups.map(({ id, title, columns: paths, across: ofGroup }) => {
        const own = within(paths);
        return (
          own.length > 0 && (
            <section key={id} aria-label={title} className="grid gap-2.5">
              <Heading className="border-b border-line pb-0.5 text-base">{title}</Heading>
              <div className={`grid items-baseline gap-x-6 gap-y-3 ${beside[ofGroup]}`}>{own.map(draw)}</div>
            </section>
          )
        );
      })}
    </div>
  );
}
