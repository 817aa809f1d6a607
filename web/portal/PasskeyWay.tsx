import { useState } from 'react';
import type { CameIn } from '../client/portal';
import { problemText, ServerProblem } from '../client/http';
import { Button } from '../ui/Button';
import { Notice } from '../ui/Notice';
import { signInByPasskey } from './passkey';

/** Signing in by a passkey: the browser asks for it, and finds by itself whose it is. */
export default function PasskeyWay({
  base,
  onBack,
  onDone,
}: {
  base: string;
  onBack?: () => void;
  onDone: (came: CameIn) => void;
}) {
  const [fault, setFault] = useState('');
  const [isBusy, setBusy] = useState(false);
  const use = () => {
    setFault('');
    setBusy(true);
    signInByPasskey(base)
      .then(onDone, (error: unknown) =>
        setFault(
          error instanceof ServerProblem
            ? problemText(error)
            : 'No passkey was shown. Try it again, or take another way.',
        ),
      )
      .finally(() => setBusy(false));
  };
  return (
    <div className="grid gap-4">
      {fault && <Notice kind="fault">{fault}</Notice>}
      <Button weight="main" disabled={isBusy} onClick={use}>
        Use my passkey
      </Button>
      {onBack && (
        <div>
          <Button small weight="quiet" onClick={onBack}>
            Back
          </Button>
        </div>
      )}
    </div>
  );
}
