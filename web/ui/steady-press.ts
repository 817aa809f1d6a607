/** So far a hand may shake, in pixels. */
const still = 4;

/** What is pressed and does something: each is clicked by the browser where the hand goes up over it. */
const pressable = 'button, a[href], label, summary, input[type=checkbox], input[type=radio]';

/**
 * A press counts where it began: what moved away under a hand that kept still, because something above it came in that
 * moment, is clicked all the same. Whoever moves the hand off takes the press back, as ever (WCAG 2.2, 2.5.2).
 * Gives what ends it.
 */
export function keepPressesSteady(page: Document): () => void {
  const end = new AbortController();
  const listening = { capture: true, signal: end.signal };
  let began: { on: HTMLElement; x: number; y: number } | null = null;
  page.addEventListener(
    'pointerdown',
    (event) => {
      const { target, isPrimary, button, clientX: x, clientY: y } = event;
      // With a key held it is another press than the plain one that could be made up for it.
      const isPlain = isPrimary && button === 0 && !event.ctrlKey && !event.metaKey && !event.shiftKey && !event.altKey;
      const on = isPlain && target instanceof Element && target.closest<HTMLElement>(pressable);
      began = on ? { on, x, y } : null;
    },
    listening,
  );
  page.addEventListener(
    'pointerup',
    ({ target, clientX, clientY }) => {
      if (!began) return;
      const { on, x, y } = began;
      began = null;
      const moved = Math.hypot(clientX - x, clientY - y) > still;
      // Over what it began on the browser clicks by itself.
      if (moved || !on.isConnected || (target instanceof Node && on.contains(target))) return;
      // What a dialog or a menu came to stand over is not to be reached.
      if (on.closest('[aria-hidden=true], [inert]')) return;
      on.click();
    },
    listening,
  );
  // A finger that scrolls presses nothing.
  page.addEventListener('pointercancel', () => (began = null), listening);
  return () => end.abort();
}
