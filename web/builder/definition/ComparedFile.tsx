import { useState } from 'react';
import type { PortalDefinition } from '../../../core/definition/definition';
import { movedDefinition } from '../../../core/definition/moved';
import { counted } from '../../../core/text/counted';
import { documentFaults, type ComparedDefinition } from '../../client/definitions';
import { useApplyDefinition } from '../../client/draft-edits';
import { Button } from '../../ui/Button';
import { useBench } from '../bench/bench-context';
import { partWords } from './part-words';
import { DefinitionFaults } from './DefinitionFaults';
import { placesOf, SourceMap } from './SourceMap';

/** A definition that was brought, beside the draft: what is other in it, and where its records are here. */
export function ComparedFile({
  name,
  definition,
  compared: { told, parts },
  onDone,
}: {
  name: string;
  definition: PortalDefinition;
  compared: ComparedDefinition;
  /** Told whether it was applied. */
  onDone: (applied: boolean) => void;
}) {
  const { slug, state, draft } = useBench();
  const apply = useApplyDefinition(slug);
  // Where this portal has its records is what is meant, wherever the file comes from.
  const [places, setPlaces] = useState(() => ({ ...placesOf(told.sources), ...placesHere(draft, told.sources) }));
  const isPlaced = Object.values(places).every(({ schema }) => schema !== '');
  const moved = movedDefinition(definition, { slug }, places);
  return (
    <section aria-label="The file" className="grid max-w-200 gap-4 rounded-stone border border-line bg-paper p-4">
      <h2 className="text-base">
        {name}: {told.name}
        {told.slug === slug ? '' : `, of the portal at /p/${told.slug}`}
      </h2>
      {parts.length === 0 ? (
        <p>It is what the draft says.</p>
      ) : (
        <details open={parts.length <= 12}>
          <summary className="min-h-6 cursor-pointer">
            {counted(parts.length, 'part')} of the draft {parts.length === 1 ? 'becomes' : 'become'} other
          </summary>
          <ul className="list-disc pl-6">
            {parts.map((part) => (
              <li key={`${part.kind} ${part.id}`}>{partWords(part)}</li>
            ))}
          </ul>
        </details>
      )}
      <SourceMap
        sources={told.sources}
        places={places}
        onPlace={(source, place) => setPlaces({ ...places, [source]: place })}
      />
      <DefinitionFaults faults={apply.error ? documentFaults(apply.error) : []} says="Nothing was applied." />
      <div className="flex gap-2">
        <Button
          weight="main"
          disabled={apply.isPending || !isPlaced}
          onClick={() =>
            apply.mutate({ definition: moved, revision: state.revision }, { onSuccess: () => onDone(true) })
          }
        >
          Apply it to the draft
        </Button>
        <Button weight="quiet" onClick={() => onDone(false)}>
          Leave it
        </Button>
      </div>
    </section>
  );
}

function placesHere({ source, sources = {} }: PortalDefinition, told: readonly { name: string | null }[]) {
  const here = { '': source, ...sources };
  return Object.fromEntries(
    Object.entries(here)
      .filter(([name]) => told.some((each) => (each.name ?? '') === name))
      .map(([name, { kind, connection = '', schema }]) => [name, { kind, connection, schema }]),
  );
}
