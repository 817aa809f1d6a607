import type { ReactNode } from 'react';
import { Dialog as Primitive } from 'radix-ui';
import { Button } from './Button';

/** Work of its own over the page, with a name; closed by Escape or a press beside it. */
export function Dialog({
  title,
  says,
  open,
  onOpenChange,
  trigger,
  wide = false,
  whole = false,
  children,
}: {
  title: ReactNode;
  /** A sentence below the name. */
  says?: ReactNode;
  open: boolean;
  onOpenChange: (open: boolean) => void;
  trigger?: ReactNode;
  wide?: boolean;
  /** As large as the window: what stands in it scrolls by itself. */
  whole?: boolean;
  children: ReactNode;
}) {
  return (
    <Primitive.Root open={open} onOpenChange={onOpenChange}>
      {trigger && <Primitive.Trigger asChild>{trigger}</Primitive.Trigger>}
      <Primitive.Portal>
        <Primitive.Overlay className="veil" />
        <Primitive.Content
          className={`sheet ${whole ? 'sheet-whole' : wide ? 'w-[min(38rem,94vw)]' : 'w-[min(28rem,94vw)]'}`}
          {...(says ? {} : { 'aria-describedby': undefined })}
        >
          <div className="flex items-center gap-3">
            <Primitive.Title className="flex-1 text-lg">{title}</Primitive.Title>
            <Primitive.Close asChild>
              <Button small weight="quiet">
                Close
              </Button>
            </Primitive.Close>
          </div>
          {says && <Primitive.Description className="text-soft">{says}</Primitive.Description>}
          {children}
        </Primitive.Content>
      </Primitive.Portal>
    </Primitive.Root>
  );
}
