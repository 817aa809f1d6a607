/** Colours that a choice can have, by name: the word always stands in it, so that nothing is told by colour alone. */
export const markColours = ['stone', 'lichen', 'ochre', 'iron', 'water', 'moss', 'sand', 'slate'] as const;

const looks = [
  'border-line-strong bg-sunk', 'border-lichen bg-lichen-wash', 'border-ochre-fill bg-ochre-wash', 'border-iron bg-iron-wash', 'border-water bg-water-wash', 'border-lichen bg-paper', 'border-ochre-fill bg-paper', 'border-ink bg-sunk',
];

/** A choice in its colour. */
export function Mark({ colour, children }: { colour: number; children: string }) {
  return <span className={`rounded-stone border px-1.5 text-ink whitespace-nowrap ${looks[colour] ?? looks[0]}`}>{children}</span>;
}
