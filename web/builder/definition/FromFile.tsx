import { useState } from 'react';
import type { PortalDefinition } from '../../../core/definition/definition';
import { documentFaults, useLookAtDefinition, type DefinitionTold } from '../../client/definitions';
import { DefinitionFaults } from './DefinitionFaults';
import { DefinitionFile } from './DefinitionFile';
import { PortalFrom } from './PortalFrom';

/** A portal from a file that was taken out here or elsewhere. */
export function FromFile() {
  const look = useLookAtDefinition();
  const [brought, setBrought] = useState<{ definition: PortalDefinition; told: DefinitionTold } | null>(null);
  const [faults, setFaults] = useState<string[]>([]);
  const failed = (error: unknown) => {
    setBrought(null);
    setFaults(documentFaults(error));
  };
  return (
    <section className="grid gap-4 rounded-stone border border-line bg-paper p-5">
      <div className="flex flex-wrap items-center gap-3">
        <h2 className="flex-1">A portal from a file</h2>
        <DefinitionFile
          disabled={look.isPending}
          onFault={failed}
          onChosen={(document) =>
            look.mutate(document, {
              onSuccess: (told) => {
                setFaults([]);
                setBrought({ definition: document as PortalDefinition, told });
              },
              onError: failed,
            })
          }
        >
          Choose a definition
        </DefinitionFile>
      </div>
      <DefinitionFaults faults={faults} says="The file was not taken." />
      {brought && (
        <PortalFrom
          key={JSON.stringify(brought.told)}
          {...brought}
          suggested={{ name: brought.told.name, slug: brought.told.slug }}
        />
      )}
    </section>
  );
}
