import { useCallback } from 'react';
import { useSearchParams } from 'react-router';

/**
 * What stands after the ? in the bench's address, and a way to change a part of it. The change is made to what stands
 * there now and not to what was rendered last: of two changes in quick succession none is lost. It is shown at once, so
 * that the next press meets what was chosen and not what stood there before.
 */
export function useAddress(): [URLSearchParams, (change: (params: URLSearchParams) => void) => void] {
  const [params, setParams] = useSearchParams();
  const change = useCallback(
    (edit: (params: URLSearchParams) => void) => {
      const next = new URLSearchParams(window.location.search);
      edit(next);
      setParams(next, { replace: true, flushSync: true });
    },
    [setParams],
  );
  return [params, change];
}
