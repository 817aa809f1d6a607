import { Dialog } from '../ui/Dialog';

export function Shortcuts({ open, onOpenChange }: { open: boolean; onOpenChange: (open: boolean) => void }) {
  const lines = [
    ['Alt+1 … 6', 'go to a stage'],
    ['Alt+F', 'find in the list'],
    ['Alt+P', 'choose the person in Seen by'],
    ['Ctrl+Z', 'undo what was done last, in records or in the portal'],
    ['Ctrl+Shift+Z', 'do a change of the portal again'],
    ['Alt+K', 'this list'],
  ];
  return (
    <Dialog title="Shortcuts" open={open} onOpenChange={onOpenChange}>
      <dl className="grid grid-cols-[auto_1fr] gap-x-4 gap-y-2">
        {lines.map(([key, what]) => [
          <dt key={key}>
            <kbd className="key">{key}</kbd>
          </dt>,
          <dd key={what}>{what}</dd>,
        ])}
      </dl>
    </Dialog>
  );
}
