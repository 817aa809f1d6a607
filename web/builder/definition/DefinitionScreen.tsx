import { useState } from 'react';
import { Copy, Download } from 'lucide-react';
import type { PortalDefinition } from '../../../core/definition/definition';
import { toldOf } from '../../../core/definition/definition-told';
import { definitionAddress } from '../../client/builder';
import { documentFaults, useCompareDefinition, type ComparedDefinition } from '../../client/definitions';
import { Button, buttonLook } from '../../ui/Button';
import { Dialog } from '../../ui/Dialog';
import { Notice } from '../../ui/Notice';
import { useBench } from '../bench/bench-context';
import { StageHead } from '../bench/StageFrame';
import { ComparedFile } from './ComparedFile';
import { DefinitionFaults } from './DefinitionFaults';
import { DefinitionFile } from './DefinitionFile';
import { PortalFrom } from './PortalFrom';

interface Brought {
  name: string;
  definition: PortalDefinition;
  compared: ComparedDefinition;
}

/** The whole portal as one document: taken out, compared with a file, applied, copied. */
export function DefinitionScreen() {
  const { slug, state } = useBench();
  const compare = useCompareDefinition(slug);
  const [brought, setBrought] = useState<Brought | null>(null);
  const [faults, setFaults] = useState<string[]>([]);
  const [isApplied, setIsApplied] = useState(false);
  const [copying, setCopying] = useState(false);
  const begin = () => {
    setBrought(null);
    setFaults([]);
    setIsApplied(false);
  };
  const failed = (error: unknown) => {
    begin();
    setFaults(documentFaults(error));
  };
  const look = (document: unknown, name: string) => {
    begin();
    compare.mutate(document, {
      onSuccess: (compared) => setBrought({ name, definition: document as PortalDefinition, compared }),
      onError: failed,
    });
  };
  return (
    <>
      <StageHead title="Definition">
        <a className={buttonLook('plain', true)} href={definitionAddress(slug)} download>
          <Download size={15} aria-hidden /> Export
        </a>
        <DefinitionFile disabled={compare.isPending} onChosen={look} onFault={failed}>
          Bring a file
        </DefinitionFile>
        <Dialog
          wide
          title="A copy as a new portal"
          open={copying}
          onOpenChange={setCopying}
          trigger={
            <Button small>
              <Copy size={15} aria-hidden /> Copy
            </Button>
          }
        >
          <PortalFrom
            definition={state.draft}
            told={toldOf(state.draft)}
            suggested={{ name: `${state.draft.portal.name}, a copy`, slug: `${slug.slice(0, 35)}-copy` }}
          />
        </Dialog>
      </StageHead>
      <div className="grid gap-3 p-4">
        <p className="text-soft">
          The whole portal is this document. A file is compared with the draft before it is applied; that can be undone,
          and members see it only when it is published.
        </p>
        <DefinitionFaults faults={faults} says="Nothing was applied." />
        {isApplied && <Notice kind="say">Applied to the draft.</Notice>}
        {brought && (
          <ComparedFile
            key={brought.name}
            {...brought}
            onDone={(applied) => {
              setBrought(null);
              setIsApplied(applied);
            }}
          />
        )}
        <pre
          tabIndex={0}
          aria-label="The draft as JSON"
          className="overflow-auto rounded-stone border border-line bg-sunk p-3 font-code text-xs"
        >
          {JSON.stringify(state.draft, null, 2)}
        </pre>
      </div>
    </>
  );
}
