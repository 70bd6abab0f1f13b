'use client';

import { certain } from '@/core/values';
import { clsx } from 'clsx';
import type { Feeding } from '@/core/plan';
import type { RuleView } from '@/core/api';
import {
  BaseEdge,
  Controls,
  type Edge,
  type EdgeProps,
  Handle,
  MarkerType,
  type Node,
  type NodeProps,
  Position,
  ReactFlow,
} from '@xyflow/react';
import '@xyflow/react/dist/style.css';
import { useMemo } from 'react';
import { FarNames, Sought } from '@/ui/kit/map/far-names';
import type { NamedBox } from '@/ui/kit/map/names-in-sight';
import { pathOf } from '@/ui/model/map/map-shape';
import { KindGlyph } from '@/ui/theme/glyphs';
import type { FeedLine, RulesMap as Laid } from './rules-map-layout';
import modelStyle from '@/ui/model/model.module.css';
import style from './rules-map.module.css';

interface RulesMapProps {
  readonly map: Laid;
  readonly feeding: readonly Feeding[];
  readonly rules: readonly RuleView[];
  /** What each rule writes, in short. */
  readonly writes: ReadonlyMap<string, string>;
  readonly selected: string | null;
  /** The rule that is sought: it comes into the middle. */
  readonly sought: { readonly id: string } | null;
  readonly onSelect: (rule: string | null) => void;
}

type RuleNode = Node<
  { readonly rule: RuleView; readonly feeding: Feeding; readonly writes: string; readonly isMarked: boolean },
  'rule'
>;
type FeedEdge = Edge<{ readonly line: FeedLine; readonly isMarked: boolean }, 'feed'>;

/** What feeds what: rules from left to right in the order in which they have their turns. A chosen one points out what feeds it and what it feeds. */
export function RulesMap({ map, feeding, rules, writes, selected, sought, onSelect }: RulesMapProps) {
  const near = useMemo(() => nearOf(feeding, selected), [feeding, selected]);
  const nodes = useMemo(
    () =>
      map.boxes.flatMap(({ id, x, y, width, height }): RuleNode[] => {
        const rule = rules.find((one) => one.id === id);
        const fed = feeding.find((one) => one.id === id);
        if (!rule || !fed) return [];
        return [
          {
            ...{ id, type: 'rule', position: { x, y }, width, height, selected: id === selected },
            ...{ draggable: false, connectable: false, ariaLabel: `${fed.place}: ${rule.name}` },
            data: { rule, feeding: fed, writes: writes.get(id) ?? rule.name, isMarked: near.has(id) },
          },
        ];
      }),
    [map, feeding, rules, writes, selected, near],
  );
  const edges = useMemo(
    () =>
      map.lines.map((line): FeedEdge => ({
        ...{ id: line.id, type: 'feed', source: line.from, target: line.to, focusable: false },
        markerEnd: { type: MarkerType.ArrowClosed, color: '#5B6770', width: 16, height: 16 },
        data: { line, isMarked: line.from === selected || line.to === selected },
      })),
    [map, selected],
  );
  const named = useMemo(
    () =>
      map.boxes.map((box): NamedBox => ({
        ...box,
        name: writes.get(box.id) ?? '',
        weight: map.lines.filter(({ from, to }) => from === box.id || to === box.id).length,
      })),
    [map, writes],
  );
  return (
    <ReactFlow
      {...{ nodes, edges, nodeTypes: NODES, edgeTypes: EDGES }}
      fitView
      elevateNodesOnSelect={false}
      fitViewOptions={{ padding: 0.04, maxZoom: 1 }}
      minZoom={0.03}
      maxZoom={2}
      nodesConnectable={false}
      edgesFocusable={false}
      deleteKeyCode={null}
      onNodeClick={(_, node) => onSelect(node.id)}
      onPaneClick={() => onSelect(null)}
      onNodesChange={(changes) => {
        for (const change of changes) if (change.type === 'select' && change.selected) onSelect(change.id);
      }}
      aria-label="Map of what feeds what"
    >
      <FarNames boxes={named} />
      <Sought sought={sought} />
      <Controls position="top-right" showInteractive={false} aria-label="Zoom" />
    </ReactFlow>
  );
}

/** A rule, those that feed it and those that it feeds. */
function nearOf(feeding: readonly Feeding[], id: string | null): ReadonlySet<string> {
  if (id === null) return new Set();
  const own = feeding.find((one) => one.id === id);
  const before = feeding.filter(({ feeds }) => feeds.includes(id)).map((one) => one.id);
  return new Set([...before, ...(own?.feeds ?? [])]);
}

function RuleBoxNode({ data: { rule, feeding, writes, isMarked }, selected }: NodeProps<RuleNode>) {
  return (
    <div
      className={clsx(
        style.rulesMapBox,
        selected && modelStyle.mapSelected,
        isMarked && modelStyle.mapMarked,
        feeding.isInCircle && style.rulesMapCircle,
      )}
      data-testid="rule-on-map"
      title={rule.name}
    >
      <Handle type="target" position={Position.Left} className={modelStyle.mapHandle} />
      <span className={style.rulesMapPlace}>{feeding.place}</span>
      <KindGlyph kind={rule.definition.kind} size={18} />
      <span className={style.rulesMapWrites}>{writes}</span>
      <Handle type="source" position={Position.Right} className={modelStyle.mapHandle} />
    </div>
  );
}

function Feed({ id, data, markerEnd }: EdgeProps<FeedEdge>) {
  const { line, isMarked } = certain(data);
  return (
    <BaseEdge
      id={id}
      path={pathOf(line.points)}
      markerEnd={markerEnd}
      className={clsx(modelStyle.mapLine, isMarked && modelStyle.mapLineMarked)}
    />
  );
}

const NODES = { rule: RuleBoxNode };
const EDGES = { feed: Feed };
