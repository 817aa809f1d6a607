import { Button } from '../../ui/Button';

/** From page to page of what is kept, the newest first. Which is looked at stands in the address as `before`. */
export function NewestOlder({
  before,
  older,
  change,
}: {
  before: number | null;
  /** Where the next page goes on; null at the end. */
  older: number | null | undefined;
  change: (recipe: (address: URLSearchParams) => void) => void;
}) {
  if (before === null && !older) return null;
  return (
    <div className="flex gap-2">
      <Button small disabled={before === null} onClick={() => change((next) => next.delete('before'))}>
        Newest
      </Button>
      <Button small disabled={!older} onClick={() => change((next) => next.set('before', String(older)))}>
        Older
      </Button>
    </div>
  );
}
