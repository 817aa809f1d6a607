import { lazy, Suspense, useEffect, useState } from 'react';
import { doorAt, type CameIn, type Door } from '../client/portal';
import { Skeleton } from '../ui/Notice';
import { DoorCard, SignIn } from './SignIn';

const SignInWays = lazy(() => import('./SignInWays'));
const PasskeyWay = lazy(() => import('./PasskeyWay'));
const SecondStep = lazy(() => import('./SecondStep'));

const lackOf = (text: string | null): CameIn['lacks'] =>
  text === 'second factor' || text === 'new second factor' ? text : null;

/** A door, a portal's or the bench's: the ways in, and the second step where one is asked for. */
export function SignInDoor({
  base,
  door,
  colour,
  said,
  opening = null,
  onDone,
}: {
  /** The API's address of the door. */
  base: string;
  door: Door;
  colour: string;
  /** The cookie that tells what went wrong on the way back from an identity provider, and of which pages it is. */
  said: { cookie: string; path: string };
  opening?: { domains: string[]; to: string } | null;
  onDone: () => void;
}) {
  const [problem] = useState(() => whatWasSaid(said.cookie));
  const { cookie, path } = said;
  useEffect(() => {
    document.cookie = `${cookie}=; path=${path}; max-age=0`;
  }, [cookie, path]);
  // From single sign-on the browser comes by an address.
  const [lacks, setLacks] = useState(lackOf(new URLSearchParams(window.location.search).get('lacks')));
  const comeIn = (came?: CameIn) => {
    setLacks(came?.lacks ?? null);
    if (!came?.lacks) onDone();
  };
  if (lacks)
    return (
      <DoorCard title={door.name} colour={colour}>
        <Suspense fallback={<Skeleton lines={3} />}>
          <SecondStep base={base} isNew={lacks === 'new second factor'} onDone={comeIn} />
        </Suspense>
      </DoorCard>
    );
  return (
    <SignIn
      signIn={(body) => doorAt(base)('POST /sign-in', { body })}
      title={door.name}
      colour={colour}
      demo={door.demo}
      methods={door.methods}
      provider={door.provider ? { label: door.provider, to: `/api${base}/provider` } : null}
      mailBox={door.mailBox}
      problem={problem}
      opening={opening}
      way={(taken, onBack) => (
        <Suspense fallback={<Skeleton lines={3} />}>
          {taken === 'passkey' ? (
            <PasskeyWay base={base} onBack={onBack} onDone={comeIn} />
          ) : (
            <SignInWays base={base} wants={taken} mailBox={door.mailBox} onBack={onBack} onDone={comeIn} />
          )}
        </Suspense>
      )}
      onDone={comeIn}
    />
  );
}

/** What went wrong on the way back from an identity provider; told once. */
function whatWasSaid(cookie: string): string | null {
  const found = document.cookie.split('; ').find((each) => each.startsWith(`${cookie}=`));
  return found === undefined ? null : decodeURIComponent(found.slice(cookie.length + 1));
}
