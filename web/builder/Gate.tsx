import { lazy, Suspense, type ReactNode } from 'react';
import { useQueryClient } from '@tanstack/react-query';
import { problemText, ServerProblem } from '../client/http';
import { useBuilder } from '../client/builder';
import { benchDoor, useDoor } from '../client/portal';
import { Button } from '../ui/Button';
import { Notice, Skeleton } from '../ui/Notice';

const SignInDoor = lazy(() => import('../portal/SignInDoor').then((part) => ({ default: part.SignInDoor })));

/** Shows what is behind it to signed-in builders, and the sign-in to everyone else. */
export function Gate({ children }: { children: ReactNode }) {
  const builder = useBuilder();
  const door = useDoor(benchDoor);
  const client = useQueryClient();
  const signedOut = builder.error instanceof ServerProblem && builder.error.status === 401;
  if (builder.data && !signedOut) return children;
  if (builder.isPending || door.isPending)
    return (
      <div className="p-6">
        <Skeleton />
      </div>
    );
  if (signedOut && door.data) {
    return (
      <Suspense>
        <SignInDoor
          base={benchDoor}
          door={door.data}
          colour="var(--lichen)"
          said={{ cookie: 'stone_porch_bench_said', path: '/' }}
          onDone={() => {
            client.removeQueries({ queryKey: ['builder'] });
            void builder.refetch();
          }}
        />
      </Suspense>
    );
  }
  return (
    <div className="p-6">
      <Notice
        kind="fault"
        action={
          <Button
            small
            onClick={() => {
              void builder.refetch();
              void door.refetch();
            }}
          >
            Try again
          </Button>
        }
      >
        {problemText(signedOut ? door.error : builder.error)}
      </Notice>
    </div>
  );
}
