/** A choice in its colour; the word always stands in it, so that nothing is told by colour alone. */
export function Mark({ colour, children }: { colour: number; children: string }) {
  return <span className={`mark mark-${colour}`}>{children}</span>;
}
