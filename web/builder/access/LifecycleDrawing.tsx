import { useLayoutEffect, useMemo, useRef, useState } from 'react';
import { graphlib, layout } from '@dagrejs/dagre';
import {
  BaseEdge,
  EdgeLabelRenderer,
  MarkerType,
  Position,
  ReactFlow,
  type Edge,
  type EdgeProps,
  type Node,
} from '@xyflow/react';
import '@xyflow/react/dist/style.css';
import type { Lifecycle } from '../../../core/definition/definition';
import { useBench } from '../bench/bench-context';

const size = { width: 96, height: 32 };
const margin = 16;

/** As wide as a sign of a move's name about is, in pixels. */
const sign = 7;

interface Point {
  x: number;
  y: number;
}

type Way = Edge<{ points: Point[]; at: Point; name: string }>;

const edgeTypes = { way: WayOfMove };

/**
 * States with the moves between them: from left to right where there is room, else from top to bottom. Said to screen
 * readers as a sentence; it is changed in the table below.
 */
export default function LifecycleDrawing({ states, lifecycle }: { states: readonly string[]; lifecycle: Lifecycle }) {
  const { draft } = useBench();
  const frame = useRef<HTMLDivElement>(null);
  const [room, setRoom] = useState(0);
  useLayoutEffect(() => {
    const observer = new ResizeObserver(([entry]) => setRoom(entry!.contentRect.width));
    observer.observe(frame.current!);
    return () => observer.disconnect();
  }, []);
  const { nodes, edges, width, height } = useMemo(() => {
    const names = (ids: string[]) => ids.map((id) => draft.roles.find((role) => role.id === id)?.name ?? id).join(', ');
    const wide = drawn(states, lifecycle, names, 'LR');
    return room > 0 && wide.width + 2 * margin > room ? drawn(states, lifecycle, names, 'TB') : wide;
  }, [states, lifecycle, draft.roles, room]);
  const words = lifecycle.moves.map((move) => `${move.name}: from ${move.from.join(', ')} to ${move.to}`).join('; ');
  return (
    // What is too wide either way is scrolled rather than made too small to read.
    <div
      ref={frame}
      tabIndex={0}
      role="region"
      aria-label={`The drawing of ${lifecycle.table}`}
      className="overflow-auto rounded-stone border border-line bg-ground [&_.react-flow\_\_handle]:opacity-0"
    >
      <div
        role="img"
        aria-label={words ? `Moves. ${words}` : 'States without moves'}
        style={{ minWidth: width + 2 * margin, height: height + 2 * margin }}
      >
        <ReactFlow
          key={JSON.stringify([states, lifecycle.moves.map((move) => [move.from, move.to, move.name]), width])}
          nodes={nodes}
          edges={edges}
          edgeTypes={edgeTypes}
          defaultViewport={{ x: margin, y: margin, zoom: 1 }}
          nodesDraggable={false}
          nodesConnectable={false}
          elementsSelectable={false}
          nodesFocusable={false}
          edgesFocusable={false}
          panOnDrag={false}
          zoomOnScroll={false}
          zoomOnPinch={false}
          zoomOnDoubleClick={false}
          preventScrolling={false}
          proOptions={{ hideAttribution: true }}
        />
      </div>
    </div>
  );
}

/** A move along the way that the layout found for it, round the states between. */
function WayOfMove({ id, data, markerEnd, style }: EdgeProps<Way>) {
  const { points, at, name } = data!;
  return (
    <>
      <BaseEdge
        id={id}
        path={points.map(({ x, y }, i) => `${i === 0 ? 'M' : 'L'}${x},${y}`).join(' ')}
        markerEnd={markerEnd}
        style={style}
      />
      <EdgeLabelRenderer>
        <span
          className="absolute bg-ground px-1 text-xs leading-4 text-ink"
          style={{ transform: `translate(-50%, -50%) translate(${at.x}px, ${at.y}px)` }}
        >
          {name}
        </span>
      </EdgeLabelRenderer>
    </>
  );
}

function drawn(
  states: readonly string[],
  lifecycle: Lifecycle,
  names: (roles: string[]) => string,
  direction: 'LR' | 'TB',
): { nodes: Node[]; edges: Way[]; width: number; height: number } {
  const graph = new graphlib.Graph({ multigraph: true });
  graph.setGraph({ rankdir: direction, nodesep: 14, edgesep: 14, ranksep: 24 });
  graph.setDefaultEdgeLabel(() => ({}));
  for (const state of states) graph.setNode(state, { ...size });
  const moves = lifecycle.moves.flatMap((move) =>
    move.from
      .filter((from) => states.includes(from) && states.includes(move.to))
      .map((from) => ({ move, from, id: `${move.id}/${from}` })),
  );
  // A name takes room in the layout, so that it stands on nothing else.
  for (const { move, from, id } of moves)
    graph.setEdge(from, move.to, { width: move.name.length * sign + 16, height: 18, labelpos: 'c' }, id);
  layout(graph);
  const edges = moves.map(({ move, from, id }): Way => {
    const { points, x, y } = graph.edge({ v: from, w: move.to, name: id }) as { points: Point[]; x: number; y: number };
    return {
      id,
      source: from,
      target: move.to,
      type: 'way',
      data: { points, at: { x, y }, name: move.name },
      markerEnd: { type: MarkerType.ArrowClosed, color: 'var(--line-strong)' },
      style: { stroke: 'var(--line-strong)', strokeDasharray: move.roles.length === 0 ? '4 3' : undefined },
      ariaLabel: `${move.name}, by ${names(move.roles)}`,
    };
  });
  const nodes = states.map((state): Node => {
    const { x, y } = graph.node(state) as Point;
    return {
      id: state,
      position: { x: x - size.width / 2, y: y - size.height / 2 },
      data: { label: state },
      sourcePosition: direction === 'LR' ? Position.Right : Position.Bottom,
      targetPosition: direction === 'LR' ? Position.Left : Position.Top,
      style: {
        ...size,
        padding: 5,
        borderRadius: 3,
        border: `1px solid var(${state === lifecycle.start ? '--lichen' : '--line-strong'})`,
        background: `var(${state === lifecycle.start ? '--lichen-wash' : '--paper'})`,
        color: 'var(--ink)',
        fontSize: 13,
        fontFamily: 'inherit',
      },
    };
  });
  const whole = graph.graph() as { width?: number; height?: number };
  return { nodes, edges, width: whole.width ?? 300, height: whole.height ?? 100 };
}
