import { useLayoutEffect, useRef, useState } from 'react';

type Acts = Record<string, (...given: never[]) => unknown>;

/**
 * Functions that are the same for as long as a part is there, and do what they would do now: what is given them need
 * not be drawn anew because they are others.
 */
export function useSteady<T extends Acts>(now: T): T {
  const latest = useRef(now);
  useLayoutEffect(() => {
    latest.current = now;
  });
  const [steady] = useState(
    () =>
      Object.fromEntries(
        Object.keys(now).map((name) => [name, (...given: never[]) => latest.current[name]!(...given)]),
      ) as T,
  );
  return steady;
}
