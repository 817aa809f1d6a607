import { useId } from 'react';
import type { Circle } from '../../core/definition/hung';

const choices: Record<Circle, string> = { forAll: 'For all who read here', amongUs: 'Among us alone' };

/** For whom something is that is hung on a record; nothing where there is no choice. */
export function CircleChoice({
  circles,
  chosen,
  onChoose,
}: {
  circles: Circle[];
  chosen: Circle;
  onChoose: (circle: Circle) => void;
}) {
  const group = useId();
  if (circles.length < 2) return null;
  return (
    <fieldset className="flex flex-wrap gap-x-4">
      <legend className="sr-only">Who reads it</legend>
      {circles.map((each) => (
        <label key={each} className="inline-flex min-h-7 items-center gap-1.5">
          <input type="radio" name={group} checked={chosen === each} onChange={() => onChoose(each)} /> {choices[each]}
        </label>
      ))}
    </fieldset>
  );
}
