import { Button } from '../../ui/Button';
import { Notice } from '../../ui/Notice';
import { useBench } from './bench-context';

/** Says that Seen by shows a version, and leads back to the draft. */
export function VersionSeen() {
  const { version, lookAt, state } = useBench();
  if (version === null) return null;
  return (
    <div className="p-3 pb-0">
      <Notice
        kind="warn"
        action={
          <Button small onClick={() => lookAt(null)}>
            Back to the draft
          </Button>
        }
      >
        This is version {version}
        {version === state.publishedVersion ? ', which is live,' : ''} on today’s records.
      </Notice>
    </div>
  );
}
