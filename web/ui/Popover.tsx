import type { ReactNode, RefObject } from 'react';
import { Popover as Primitive } from 'radix-ui';

/** A small panel at what opened it: over the page, closed by Escape or a press elsewhere. */
export function Popover({
  trigger,
  around,
  label,
  align = 'start',
  className = '',
  open,
  onOpenChange,
  onClosed,
  children,
}: {
  /** The button that opens it; absent where it stands around something else and is opened from there. */
  trigger?: ReactNode;
  around?: RefObject<HTMLElement | null>;
  label: string;
  align?: 'start' | 'end';
  className?: string;
  open?: boolean;
  onOpenChange?: (open: boolean) => void;
  /** Where the focus goes afterwards; to the trigger when absent. */
  onClosed?: () => void;
  children: ReactNode;
}) {
  return (
    <Primitive.Root open={open} onOpenChange={onOpenChange}>
      {trigger && <Primitive.Trigger asChild>{trigger}</Primitive.Trigger>}
      {around && <Primitive.Anchor virtualRef={around as RefObject<HTMLElement>} />}
      <Primitive.Portal>
        <Primitive.Content
          align={align}
          sideOffset={4}
          collisionPadding={8}
          aria-label={label}
          className={`panel p-3 ${className}`}
          onCloseAutoFocus={
            onClosed &&
            ((event) => {
              event.preventDefault();
              onClosed();
            })
          }
        >
          {children}
        </Primitive.Content>
      </Primitive.Portal>
    </Primitive.Root>
  );
}
