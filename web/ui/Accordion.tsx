import type { ReactNode } from 'react';
import { Accordion as Primitive } from 'radix-ui';
import { ChevronDown } from 'lucide-react';

/** Lines of which one at most is open, with what is set below it. */
export function Accordion({
  open,
  onOpen,
  children,
}: {
  /** The key of the open one; empty for none. */
  open: string;
  onOpen: (key: string) => void;
  children: ReactNode;
}) {
  return (
    <Primitive.Root type="single" collapsible value={open} onValueChange={onOpen} className="grid gap-1.5">
      {children}
    </Primitive.Root>
  );
}

export function AccordionItem({
  id,
  label,
  sentence,
  children,
}: {
  id: string;
  label: string;
  sentence: ReactNode;
  children: ReactNode;
}) {
  return (
    <Primitive.Item value={id} asChild>
      <section aria-label={label} className="rounded-stone border border-line bg-paper">
        <Primitive.Header asChild>
          <h2 className="m-0 font-sans text-base font-normal">
            <Primitive.Trigger className="group flex w-full items-baseline gap-3 px-4 py-2 text-left hover:bg-sunk">
              <span className="min-w-0 flex-1">{sentence}</span>
              <ChevronDown
                size={15}
                aria-hidden
                className="shrink-0 self-center text-soft group-data-[state=open]:rotate-180"
              />
            </Primitive.Trigger>
          </h2>
        </Primitive.Header>
        <Primitive.Content className="grid gap-3 border-t border-line p-4">{children}</Primitive.Content>
      </section>
    </Primitive.Item>
  );
}
