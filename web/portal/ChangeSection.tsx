import { Pencil } from 'lucide-react';
import { Button } from '../ui/Button';

/** For the builder who looks: leads from a section to where it is set. */
export default function ChangeSection({ onPress }: { onPress: () => void }) {
  return (
    <Button
      small
      className={
        'no-print absolute right-0 bottom-full z-10 -mb-1 opacity-0 ' +
        'group-hover/section:opacity-100 group-focus-within/section:opacity-100'
      }
      onClick={onPress}
    >
      <Pencil size={14} aria-hidden /> Change this section
    </Button>
  );
}
