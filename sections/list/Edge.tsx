import type { Sizing } from './widths';

/** The edge of a column, which is drawn to size it; by keys it is sized where columns are arranged. */
export function Edge({ column, sizing }: { column: string; sizing: Sizing }) {
  return (
    <span
      role="presentation"
      data-edge={column}
      className={
        'no-print absolute inset-y-1 right-0 w-2 cursor-col-resize touch-none border-r border-transparent ' +
        'hover:border-line-strong'
      }
      onPointerDown={(event) => {
        const edge = event.currentTarget;
        const from = event.clientX - edge.parentElement!.offsetWidth;
        edge.setPointerCapture(event.pointerId);
        edge.onpointermove = ({ clientX }) => sizing.size(column, clientX - from, false);
        edge.onlostpointercapture = ({ clientX }) => {
          edge.onpointermove = null;
          edge.onlostpointercapture = null;
          sizing.size(column, clientX - from, true);
        };
      }}
    />
  );
}
