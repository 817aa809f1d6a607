import { Notice } from '../../ui/Notice';

/** Why a definition was not taken, a line for each fault. */
export function DefinitionFaults({ faults, says }: { faults: readonly string[]; says: string }) {
  if (faults.length === 0) return null;
  return (
    <Notice kind="fault">
      <p className="font-semibold">{says}</p>
      <ul className="list-disc pl-5">
        {faults.map((each) => (
          <li key={each}>{each}</li>
        ))}
      </ul>
    </Notice>
  );
}
