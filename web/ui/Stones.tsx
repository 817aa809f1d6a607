export type Level = 'hidden' | 'masked' | 'shown' | 'editable';

const courses: Record<Level, number> = { hidden: 0, masked: 1, shown: 2, editable: 3 };
const fills: Record<Level, string> = {
  hidden: 'var(--line)',
  masked: 'var(--ochre-fill)',
  shown: 'var(--stone)',
  editable: 'var(--lichen)',
};
/** Three courses of stones from the bottom up; the joints are staggered as a mason lays them. */
const stones = [
  [
    [0, 14, 12],
    [14, 14, 12],
  ],
  [
    [0, 8, 7],
    [9, 8, 11],
    [22, 8, 4],
  ],
  [
    [0, 2, 12],
    [14, 2, 12],
  ],
] as const;

/** How open a column is, as a stack of courses: the more stones, the more open. The word stands beside it. */
export function Stones({ level }: { level: Level }) {
  return (
    <svg width="28" height="20" viewBox="0 0 28 20" aria-hidden className="shrink-0">
      {level === 'hidden'
        ? [0, 14].map((x) => (
            <rect
              key={x}
              x={x + 0.5}
              y="14.5"
              width="11"
              height="4"
              rx="1"
              fill="none"
              stroke="var(--line-strong)"
              strokeDasharray="2 1.500"
            />
          ))
        : stones
            .slice(0, courses[level])
            .flat()
            .map(([x, y, width]) => (
              <rect key={`${x}/${y}`} x={x} y={y} width={width} height="5" rx="1" fill={fills[level]} />
            ))}
    </svg>
  );
}

/** Our arch with its green keystone. */
export function Arch({ size = 30 }: { size?: number }) {
  return (
    <svg width={size} height={size} viewBox="0 0 32 32" aria-hidden className="shrink-0">
      <path
        fill="var(--ink)"
        d={
          'M3 28V17h7v11zM22 28V17h7v11zM3 16a13 13 0 0 1 4-8l5 5a6 6 0 0 0-2 3zM29 16a13 13 0 0 0-4-8l-5 5a6 6 ' +
          '0 0 1 2 3z'
        }
      />
      <path fill="var(--lichen)" d="M8 7a13 13 0 0 1 16 0l-4.500 5.400a6 6 0 0 0-7 0z" />
    </svg>
  );
}
