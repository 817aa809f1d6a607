import { Flag } from 'lucide-react';

/** That something holds of a record: a sign, a word and a colour. */
export function MarkSign({ word, colour }: { word: string; colour: number }) {
  return (
    <span className={`mark mark-${colour} inline-flex items-center gap-1 align-baseline text-sm font-normal`}>
      <Flag size={12} aria-hidden className="shrink-0" />
      {word}
    </span>
  );
}
