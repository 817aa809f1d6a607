import { useMemo } from 'react';
import { graphlib, layout } from '@dagrejs/dagre';
import { MarkerType, Position, ReactFlow, type Edge, type Node } from '@xyflow/react';
import '@xyflow/react/dist/style.css';
import type { Lifecycle } from '../../../core/definition/definition';
import { useBench } from '../bench-context';

const size = { width: 104, height: 34 };

/** States from left to right with the moves between them. Said to screen readers as a sentence; it is changed in the table below. */
export default function LifecycleDrawing({ states, lifecycle }: { states: readonly string[]; lifecycle: Lifecycle }) {
  const { draft } = useBench();
  const { nodes, edges, height } = useMemo(() => drawn(states, lifecycle, (ids) => ids.map((id) => draft.roles.find((role) => role.id === id)?.name ?? id).join(', ')), [states, lifecycle, draft.roles]);
  const words = lifecycle.moves.map((move) => `${move.name}: from ${move.from.join(', ')} to ${move.to}`).join('; ');
  return (
    <div role="img" aria-label={words ? `Moves. ${words}` : 'States without moves'} className="rounded-stone border border-line bg-ground" style={{ height: Math.max(120, Math.min(300, height + 40)) }}>
      <ReactFlow key={JSON.stringify([states, lifecycle.moves.map((move) => [move.from, move.to])])} nodes={nodes} edges={edges} fitView fitViewOptions={{ padding: 0.08, maxZoom: 1 }} nodesDraggable={false} nodesConnectable={false} elementsSelectable={false} nodesFocusable={false} edgesFocusable={false} panOnDrag={false} zoomOnScroll={false} zoomOnPinch={false} zoomOnDoubleClick={false} preventScrolling={false} proOptions={{ hideAttribution: true }} />
    </div>
  );
}

function drawn(states: readonly string[], lifecycle: Lifecycle, names: (roles: string[]) => string): { nodes: Node[]; edges: Edge[]; height: number } {
  const graph = new graphlib.Graph({ multigraph: true });
  graph.setGraph({ rankdir: 'LR', nodesep: 18, ranksep: 90 });
  graph.setDefaultEdgeLabel(() => ({}));
  for (const state of states) graph.setNode(state, { ...size });
  const edges: Edge[] = lifecycle.moves.flatMap((move) => move.from.filter((from) => states.includes(from) && states.includes(move.to)).map((from): Edge => {
    graph.setEdge(from, move.to, {}, `${move.id}/${from}`);
    return {
      id: `${move.id}/${from}`, source: from, target: move.to, label: move.name, type: 'smoothstep', markerEnd: { type: MarkerType.ArrowClosed, color: 'var(--line-strong)' }, style: { stroke: 'var(--line-strong)', strokeDasharray: move.roles.length === 0 ? '4 3' : undefined },
      labelStyle: { fill: 'var(--ink)', fontSize: 11 }, labelBgStyle: { fill: 'var(--ground)' }, ariaLabel: `${move.name}, by ${names(move.roles)}`,
    };
  }));
  layout(graph);
  const nodes = states.map((state): Node => {
    const { x, y } = graph.node(state) as { x: number; y: number };
    return {
      id: state, position: { x: x - size.width / 2, y: y - size.height / 2 }, data: { label: state }, sourcePosition: Position.Right, targetPosition: Position.Left,
      style: { ...size, padding: 6, borderRadius: 3, border: `1px solid var(${state === lifecycle.start ? '--lichen' : '--line-strong'})`, background: `var(${state === lifecycle.start ? '--lichen-wash' : '--paper'})`, color: 'var(--ink)', fontSize: 13, fontFamily: 'inherit' },
    };
  });
  return { nodes, edges, height: (graph.graph() as { height?: number }).height ?? 120 };
}
