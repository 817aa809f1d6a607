/** How series are told apart: by colour, and by dashes and patterns for those who don't see it. */
const seriesLooks = [
  { colour: 'var(--water)', dash: undefined },
  { colour: 'var(--ochre-fill)', dash: '7 3' },
  { colour: 'var(--lichen)', dash: '2 3' },
  { colour: 'var(--iron)', dash: '9 3 2 3' },
  { colour: 'var(--stone)', dash: '4 2' },
  { colour: 'var(--ink)', dash: '1 4' },
] as const;

export const lookOf = (place: number) => seriesLooks[place % seriesLooks.length]!;

/** Lines over a series' colour: none, then slanted one way, the other, level, upright and dotted. */
const strokes = ['', 'M0 6 6 0', 'M0 0 6 6', 'M0 3 6 3', 'M3 0 3 6', 'M2 3 4 3'];

/** The patterns of all looks, to be filled with by `fillOf` within the same drawing. */
export function SeriesPatterns({ id }: { id: string }) {
  return (
    <defs>
      {seriesLooks.map(({ colour }, place) => (
        <pattern key={place} id={`${id}-${place}`} width="6" height="6" patternUnits="userSpaceOnUse">
          <rect width="6" height="6" fill={colour} />
          <path d={strokes[place]} stroke="var(--paper)" strokeOpacity="0.65" strokeWidth="1.2" />
        </pattern>
      ))}
    </defs>
  );
}

export const fillOf = (id: string, place: number) => `url(#${id}-${place % seriesLooks.length})`;
