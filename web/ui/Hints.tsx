import { useEffect, useState } from 'react';
import { Portal } from 'radix-ui';
import { Popper } from 'radix-ui/internal';

/** Milliseconds of pointing before a hint comes; with the focus it comes at once. */
const patience = 400;

interface Shown {
  at: Element;
  text: string;
}

const placeOf = ({ clientX, clientY }: PointerEvent): string => `${clientX} ${clientY}`;

/**
 * One for the whole application: shows the hint of what is pointed at or has the focus. It can be pointed at itself,
 * and Escape takes it away (WCAG 2.2, 1.4.13).
 */
export default function Hints() {
  const [shown, setShown] = useState<Shown | null>(null);
  useEffect(() => {
    let waiting: ReturnType<typeof setTimeout> | undefined;
    let [pointedAt, pressedAt] = ['', ''];
    const later = (next: Shown | null, after: number) => {
      clearTimeout(waiting);
      waiting = setTimeout(() => setShown(next), after);
    };
    const hinted = (target: EventTarget | null): Shown | null => {
      const at = target instanceof Element ? target.closest('[data-hint]') : null;
      return at && { at, text: at.getAttribute('data-hint')! };
    };
    const onPoint = (event: PointerEvent) => {
      if (event.pointerType === 'touch') return;
      // Something else came under a pointer that rests where it was pressed: nobody asks what that is.
      if (placeOf(event) === pressedAt) return;
      if (event.target instanceof Element && event.target.closest('[role="tooltip"]')) return clearTimeout(waiting);
      const next = hinted(event.target);
      later(next, next ? patience : 100);
    };
    const onFocus = (event: FocusEvent) => {
      const next =
        event.target instanceof Element && event.target.matches(':focus-visible') ? hinted(event.target) : null;
      later(next, 0);
    };
    const away = () => later(null, 0);
    const onMove = (event: PointerEvent) => {
      pointedAt = placeOf(event);
    };
    const onPress = () => {
      pressedAt = pointedAt;
      away();
    };
    // Keys that go on to something show its hint when it has the focus.
    const onKey = ({ key }: KeyboardEvent) => key !== 'Tab' && !key.startsWith('Arrow') && onPress();
    document.addEventListener('pointerover', onPoint);
    document.addEventListener('focusin', onFocus);
    document.addEventListener('pointermove', onMove, { passive: true });
    document.addEventListener('pointerdown', onPress);
    document.addEventListener('keydown', onKey);
    document.addEventListener('scroll', away, true);
    return () => {
      clearTimeout(waiting);
      document.removeEventListener('pointerover', onPoint);
      document.removeEventListener('focusin', onFocus);
      document.removeEventListener('pointermove', onMove);
      document.removeEventListener('pointerdown', onPress);
      document.removeEventListener('keydown', onKey);
      document.removeEventListener('scroll', away, true);
    };
  }, []);
  if (!shown?.at.isConnected) return null;
  return (
    <Popper.Root>
      <Popper.Anchor virtualRef={{ current: shown.at }} />
      <Portal.Root>
        <Popper.Content role="tooltip" sideOffset={4} collisionPadding={8} className="hint">
          {shown.text}
        </Popper.Content>
      </Portal.Root>
    </Popper.Root>
  );
}
