/**
 * Keeps what is chosen in a grid in sight while the room for it changes: an editor below takes its own, and more of it
 * when what it counts is there. Gives what ends it.
 */
export function keepInSight(grid: HTMLElement): () => void {
  const show = () => grid.querySelector('[aria-current]')?.scrollIntoView({ block: 'nearest', inline: 'nearest' });
  // Nothing moves away under a press: a cell that is not where it was pressed any more would not be chosen.
  let isPressed = false;
  let isLate = false;
  const press = () => {
    isPressed = true;
  };
  const release = () => {
    isPressed = false;
    if (isLate) setTimeout(show);
    isLate = false;
  };
  const room = new ResizeObserver(() => {
    if (isPressed) isLate = true;
    else show();
  });
  room.observe(grid);
  grid.addEventListener('pointerdown', press);
  window.addEventListener('pointerup', release);
  window.addEventListener('pointercancel', release);
  return () => {
    room.disconnect();
    grid.removeEventListener('pointerdown', press);
    window.removeEventListener('pointerup', release);
    window.removeEventListener('pointercancel', release);
  };
}
