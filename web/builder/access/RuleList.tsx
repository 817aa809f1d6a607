import type { ReactNode } from 'react';
import { counted } from '../../../core/text/counted';
import { Accordion, AccordionItem } from '../../ui/Accordion';
import { Button } from '../../ui/Button';
import { Question } from '../../ui/Question';
import { useAddress } from '../bench/address';

/** Rules as sentences; pressed, one shows what it is made of. Which is open stands in the address. */
export function RuleList({ children }: { children: ReactNode }) {
  const { open, setOpen } = useOpenRule();
  return (
    <Accordion open={open} onOpen={setOpen}>
      {children}
    </Accordion>
  );
}

/** Which rule is open; a new one is opened when it is made. */
export function useOpenRule(): { open: string; setOpen: (id: string) => void } {
  const [params, change] = useAddress();
  return {
    open: params.get('rule') ?? '',
    setOpen: (id) =>
      change((address) => {
        if (id) address.set('rule', id);
        else address.delete('rule');
      }),
  };
}

export function Rule({
  id,
  kind,
  sentence,
  loses,
  onRemove,
  children,
}: {
  id: string;
  /** What it is: "Mask". */
  kind: string;
  sentence: ReactNode;
  /** What is no longer so without it; says how many are concerned. */
  loses: string;
  /** Absent while it isn't kept yet. */
  onRemove?: () => void;
  children: ReactNode;
}) {
  const word = kind.toLowerCase();
  return (
    <AccordionItem id={id} label={`${kind} ${id}`} sentence={sentence}>
      {children}
      {onRemove && (
        <div>
          <Question
            trigger={
              <Button small weight="danger">
                Remove the {word}
                <span className="sr-only"> {id}</span>
              </Button>
            }
            title={`Remove the ${word}?`}
            says={
              <>
                <p>{loses}</p>
                <p className="text-soft">It changes the draft alone, and can be undone.</p>
              </>
            }
            keep={`Keep the ${word}`}
            go={`Remove the ${word}`}
            onGo={onRemove}
          />
        </div>
      )}
    </AccordionItem>
  );
}

/** "everyone", "Sampler and 2 more". */
export function someOf(names: readonly string[]): string {
  return names.length <= 3
    ? names.join(', ')
    : `${names.slice(0, 2).join(', ')} and ${counted(names.length - 2, 'other')}`;
}
