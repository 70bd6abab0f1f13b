'use client';

import { certain, itemAt, lastIn } from '@/core/values';
import { clsx } from 'clsx';
import {
  BaseEdge,
  Controls,
  type Edge,
  EdgeLabelRenderer,
  type EdgeProps,
  Handle,
  type Node,
  type NodeProps,
  Position,
  ReactFlow,
} from '@xyflow/react';
import '@xyflow/react/dist/style.css';
import { useMemo } from 'react';
import { FarNames, Sought } from '@/ui/kit/map/far-names';
import type { NamedBox } from '@/ui/kit/map/names-in-sight';
import { type MapBox, type MapLayout, type MapLine, pathOf } from './map-shape';
import modelStyle from '@/ui/model/model.module.css';
import style from './model-map.module.css';

export interface ModelMapProps {
  readonly map: MapLayout;
  readonly selected: string | null;
  /** The type that is sought: it comes into the middle. */
  readonly sought: { readonly id: string } | null;
  readonly onSelect: (type: string) => void;
  /** Links that are pointed out, with the way along them: from the child up, or from the parent down. */
  readonly marked: ReadonlySet<string>;
  readonly markedBoxes: ReadonlySet<string>;
}

type BoxNode = Node<{ readonly box: MapBox; readonly isMarked: boolean }, 'box'>;
type LineEdge = Edge<{ readonly line: MapLine; readonly isMarked: boolean }, 'line'>;

/** The types and their links, drawn. A click or Enter on a type opens it; the list beside the map says the same in words. */
export function ModelMap({ map, selected, sought, onSelect, marked, markedBoxes }: ModelMapProps) {
  const nodes = useMemo(
    () =>
      map.boxes.map((box): BoxNode => ({
        ...{
          id: box.key,
          type: 'box',
          position: { x: box.x, y: box.y },
          width: box.width,
          height: box.height,
        },
        ...{ selected: box.key === selected, draggable: false, connectable: false, ariaLabel: labelOf(box) },
        data: { box, isMarked: markedBoxes.has(box.key) },
      })),
    [map, selected, markedBoxes],
  );
  const edges = useMemo(
    () =>
      map.lines.map((line): LineEdge => ({
        ...{ id: line.id, type: 'line', source: line.type, target: line.parent, focusable: false },
        data: { line, isMarked: marked.has(line.id) },
      })),
    [map, marked],
  );
  const named = useMemo(() => namedBoxes(map), [map]);
  return (
    <ReactFlow
      {...{ nodes, edges, nodeTypes: NODES, edgeTypes: EDGES }}
      fitView
      elevateNodesOnSelect={false}
      fitViewOptions={{ padding: { left: '28px', right: '64px', y: '24px' }, maxZoom: 1 }}
      minZoom={0.03}
      maxZoom={2}
      nodesConnectable={false}
      edgesFocusable={false}
      deleteKeyCode={null}
      onNodeClick={(_, node) => onSelect(node.id)}
      onNodesChange={(changes) => {
        for (const change of changes) if (change.type === 'select' && change.selected) onSelect(change.id);
      }}
      aria-label="Map of the model"
    >
      <FarNames boxes={named} />
      <Sought sought={sought} />
      <Controls showInteractive={false} aria-label="Zoom" />
    </ReactFlow>
  );
}

/** The names of the boxes; types with more links are more worth finding. */
const namedBoxes = ({ boxes, lines }: MapLayout): readonly NamedBox[] =>
  boxes.map(({ key, ...box }) => ({
    ...{ ...box, id: key },
    weight: lines.filter(({ type, parent }) => type === key || parent === key).length,
  }));

const labelOf = ({ name, fields, isBridge }: MapBox): string =>
  `${name}, ${isBridge ? 'a bridge with ' : ''}${fields} ${fields === 1 ? 'field' : 'fields'}`;

function Box({ data: { box, isMarked }, selected }: NodeProps<BoxNode>) {
  return (
    <div
      className={clsx(
        modelStyle.mapBox,
        box.isBridge && modelStyle.mapBridge,
        selected && modelStyle.mapSelected,
        isMarked && modelStyle.mapMarked,
      )}
      data-testid="type-on-map"
      style={{ width: box.width, height: box.height }}
    >
      <Handle type="source" position={Position.Top} className={modelStyle.mapHandle} />
      <strong>{box.name}</strong>
      <span className="quiet">
        {box.isBridge ? 'bridge · ' : ''}
        {box.fields} {box.fields === 1 ? 'field' : 'fields'}
      </span>
      {box.listed.length > 0 ? (
        <ul className={style.listed}>
          {box.listed.map(({ name, kind }) => (
            <li key={name}>
              {name} <span className="quiet">{kind}</span>
            </li>
          ))}
          {box.fields > box.listed.length ? (
            <li className="quiet">and {box.fields - box.listed.length} more</li>
          ) : null}
        </ul>
      ) : null}
      <Handle type="target" position={Position.Bottom} className={modelStyle.mapHandle} />
    </div>
  );
}

const FOOT = 9;

/** Three toes at the child's end: many of these hang under one of those. */
function footAt(points: MapLine['points']): string {
  const [at, next] = points as readonly [MapLine['points'][number], MapLine['points'][number]];
  const length = Math.hypot(next.x - at.x, next.y - at.y) || 1;
  const [dx, dy] = [(next.x - at.x) / length, (next.y - at.y) / length];
  const heel = `${at.x + dx * FOOT} ${at.y + dy * FOOT}`;
  const toe = (side: number) => `M ${heel} L ${at.x - dy * 5 * side} ${at.y + dx * 5 * side}`;
  return `${toe(1)} ${toe(-1)}`;
}

/** Which way values go: a head at the parent's end. */
function headAt(points: MapLine['points']): string {
  const [at, before] = [lastIn(points), itemAt(points, points.length - 2)];
  const length = Math.hypot(at.x - before.x, at.y - before.y) || 1;
  const [dx, dy] = [(at.x - before.x) / length, (at.y - before.y) / length];
  const [x, y] = [at.x - dx * FOOT, at.y - dy * FOOT];
  return `M ${at.x} ${at.y} L ${x - dy * 5} ${y + dx * 5} L ${x + dy * 5} ${y - dx * 5} Z`;
}

/** Of an open link: a ring at each parent’s end. */
function ringAt(points: MapLine['points']): { x: number; y: number } {
  const [at, before] = [lastIn(points), itemAt(points, points.length - 2)];
  const length = Math.hypot(at.x - before.x, at.y - before.y) || 1;
  return { x: at.x - ((at.x - before.x) / length) * 5, y: at.y - ((at.y - before.y) / length) * 5 };
}

function Line({ id, data }: EdgeProps<LineEdge>) {
  const { line, isMarked } = certain(data);
  const ring = ringAt(line.points);
  const path = pathOf(line.points);
  return (
    <>
      <BaseEdge
        id={id}
        path={path}
        className={clsx(
          modelStyle.mapLine,
          line.kind === 'open' && modelStyle.mapOpen,
          line.kind !== 'open' && !line.isRequired && modelStyle.mapOptional,
          isMarked && modelStyle.mapLineMarked,
        )}
      />
      <path
        d={footAt(line.points)}
        className={clsx(modelStyle.mapLine, isMarked && modelStyle.mapLineMarked)}
      />
      {line.kind === 'open' && !isMarked ? (
        <circle cx={ring.x} cy={ring.y} r={4} className={style.mapRing} />
      ) : null}
      {isMarked ? <path d={headAt(line.points)} className={style.mapHead} /> : null}
      <EdgeLabelRenderer>
        <div
          className={clsx(style.mapLabel, isMarked && style.mapLabelMarked)}
          style={{ transform: `translate(${line.label.x}px, ${line.label.y}px) translate(-50%, -50%)` }}
        >
          {line.name}
        </div>
      </EdgeLabelRenderer>
    </>
  );
}

const NODES = { box: Box };
const EDGES = { line: Line };
