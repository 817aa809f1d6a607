import { useChangeReport } from '../../client/change-report';
import { problemText } from '../../client/http';
import { Button } from '../../ui/Button';
import { useAddress } from '../bench/address';
import { useBench } from '../bench/bench-context';

/** What would change were a version live in place of the one that is. */
export function CompareVersion({ number }: { number: number }) {
  const { slug } = useBench();
  const [, setAddress] = useAddress();
  const { begin } = useChangeReport(slug, null);
  return (
    <>
      {begin.isError && <span className="block text-sm text-iron">{problemText(begin.error)}</span>}
      <Button
        small
        weight="quiet"
        disabled={begin.isPending}
        onClick={() =>
          begin.mutate(
            { from: null, to: number },
            { onSuccess: ({ id }) => setAddress((address) => address.set('report', String(id))) },
          )
        }
      >
        What v{number} would change
      </Button>
    </>
  );
}
