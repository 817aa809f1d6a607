import { AlertDialog } from 'radix-ui';
import { Button } from '../ui/Button';

/** Asked before a page is left on which something was typed and not saved. */
export default function LeaveQuestion({ onStay, onLeave }: { onStay: () => void; onLeave: () => void }) {
  return (
    <AlertDialog.Root open>
      <AlertDialog.Portal>
        <AlertDialog.Overlay className="fixed inset-0 z-40 bg-night opacity-50" />
        <AlertDialog.Content
          className={
            'fixed left-1/2 top-1/2 z-50 grid w-[min(26rem,92vw)] -translate-x-1/2 -translate-y-1/2 gap-3 ' +
            'rounded-stone border border-line-strong bg-paper p-5'
          }
        >
          <AlertDialog.Title className="font-head text-lg font-bold">Leave without saving?</AlertDialog.Title>
          <AlertDialog.Description>What you changed in this record is not saved yet.</AlertDialog.Description>
          <div className="flex flex-wrap gap-2">
            <AlertDialog.Cancel asChild>
              <Button weight="main" onClick={onStay}>
                Stay here
              </Button>
            </AlertDialog.Cancel>
            <AlertDialog.Action asChild>
              <Button weight="danger" onClick={onLeave}>
                Leave and lose it
              </Button>
            </AlertDialog.Action>
          </div>
        </AlertDialog.Content>
      </AlertDialog.Portal>
    </AlertDialog.Root>
  );
}
