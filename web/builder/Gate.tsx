import type { ReactNode } from 'react';
import { useQueryClient } from '@tanstack/react-query';
import { workplace } from '../client/bench';
import { problemText, ServerProblem } from '../client/http';
import { useBuilder, useBuilderDoor } from '../client/builder';
import { Button } from '../ui/Button';
import { Notice, Skeleton } from '../ui/Notice';
import { SignIn } from '../portal/SignIn';

/** Shows what is behind it to signed-in builders, and the sign-in to everyone else. */
export function Gate({ children }: { children: ReactNode }) {
  const builder = useBuilder();
  const door = useBuilderDoor();
  const client = useQueryClient();
  const signedOut = builder.error instanceof ServerProblem && builder.error.status === 401;
  if (builder.data && !signedOut) return children;
  if (builder.isPending || door.isPending)
    return (
      <div className="p-6">
        <Skeleton />
      </div>
    );
  if (signedOut) {
    return (
      <SignIn
        signIn={(body) => workplace('POST /sign-in', { body })}
        title="Stone Porch"
        colour="var(--lichen)"
        demo={door.data?.demo ?? null}
        onDone={() => {
          client.removeQueries({ queryKey: ['builder'] });
          void builder.refetch();
        }}
      />
    );
  }
  return (
    <div className="p-6">
      <Notice
        kind="fault"
        action={
          <Button small onClick={() => void builder.refetch()}>
            Try again
          </Button>
        }
      >
        {problemText(builder.error)}
      </Notice>
    </div>
  );
}
