import type { ReactNode } from 'react';
import { AlertDialog } from 'radix-ui';
import { Button } from './Button';

/** Asks before something is done that people may regret; says what happens, with the number. */
export function Question({
  title,
  says,
  keep,
  go,
  onGo,
  onKeep,
  trigger,
  open,
  onOpenChange,
  onClosed,
  first = 'keep',
}: {
  title: string;
  says: ReactNode;
  /** The word for leaving things as they are, and for going on. */
  keep: string;
  go: string;
  onGo: () => void;
  onKeep?: () => void;
  trigger?: ReactNode;
  open?: boolean;
  onOpenChange?: (open: boolean) => void;
  /** Where the focus goes afterwards; to the trigger when absent. */
  onClosed?: () => void;
  /** Which is the main one: the way back, where going on loses something. */
  first?: 'keep' | 'go';
}) {
  return (
    <AlertDialog.Root open={open} onOpenChange={onOpenChange}>
      {trigger && <AlertDialog.Trigger asChild>{trigger}</AlertDialog.Trigger>}
      <AlertDialog.Portal>
        <AlertDialog.Overlay className="veil" />
        <AlertDialog.Content
          className="sheet w-[min(28rem,94vw)]"
          onCloseAutoFocus={
            onClosed &&
            ((event) => {
              event.preventDefault();
              onClosed();
            })
          }
        >
          <AlertDialog.Title className="text-lg">{title}</AlertDialog.Title>
          <AlertDialog.Description asChild>
            <div className="grid gap-2">{says}</div>
          </AlertDialog.Description>
          <div className="flex flex-wrap gap-2">
            <AlertDialog.Cancel asChild>
              <Button weight={first === 'keep' ? 'main' : 'plain'} onClick={onKeep}>
                {keep}
              </Button>
            </AlertDialog.Cancel>
            <AlertDialog.Action asChild>
              <Button weight={first === 'keep' ? 'danger' : 'main'} onClick={onGo}>
                {go}
              </Button>
            </AlertDialog.Action>
          </div>
        </AlertDialog.Content>
      </AlertDialog.Portal>
    </AlertDialog.Root>
  );
}
