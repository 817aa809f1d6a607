import { Dialog } from 'radix-ui';
import { Button } from '../ui/Button';

export function Shortcuts({ open, onOpenChange }: { open: boolean; onOpenChange: (open: boolean) => void }) {
  const lines = [
    ['Alt+1 … 6', 'go to a stage'],
    ['/', 'find in the list'],
    ['.', 'choose the person in Seen by'],
    ['Ctrl+Z', 'undo what was done last, in records or in the portal'],
    ['Ctrl+Shift+Z', 'do a change of the portal again'],
    ['?', 'this list'],
  ];
  return (
    <Dialog.Root open={open} onOpenChange={onOpenChange}>
      <Dialog.Portal>
        <Dialog.Overlay className="fixed inset-0 z-40 bg-night opacity-40" />
        <Dialog.Content
          className={
            'fixed left-1/2 top-1/2 z-50 w-96 -translate-x-1/2 -translate-y-1/2 rounded-stone border ' +
            'border-line-strong bg-paper p-5'
          }
          aria-describedby={undefined}
        >
          <Dialog.Title className="font-head text-lg font-bold">Shortcuts</Dialog.Title>
          <dl className="mt-3 grid grid-cols-[auto_1fr] gap-x-4 gap-y-2">
            {lines.map(([key, what]) => [
              <dt key={key}>
                <kbd className="key">{key}</kbd>
              </dt>,
              <dd key={what}>{what}</dd>,
            ])}
          </dl>
          <Dialog.Close asChild>
            <Button className="mt-4">Close</Button>
          </Dialog.Close>
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}
