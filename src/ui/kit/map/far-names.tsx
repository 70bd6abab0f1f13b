'use client';

import { useReactFlow, useStore, ViewportPortal } from '@xyflow/react';
import { useEffect, useMemo } from 'react';
import { useReducedMotion } from '@/ui/kit/hooks/use-reduced-motion';
import { FAR, type NamedBox, namesInSight } from './names-in-sight';
import style from './far-names.module.css';

/** Steps by which the names are placed anew as one goes nearer. */
const STEP = 1.15;

/** Names over a map that is too far away for those within the boxes; within a map. */
export function FarNames({ boxes }: { readonly boxes: readonly NamedBox[] }) {
  const zoom = useStore(({ transform }) => STEP ** Math.round(Math.log(transform[2]) / Math.log(STEP)));
  const names = useMemo(() => (zoom < FAR ? namesInSight(boxes, zoom) : []), [boxes, zoom]);
  if (zoom >= FAR) return null;
  return (
    <ViewportPortal>
      {/* The boxes say their names to those who hear them. */}
      <div aria-hidden="true" data-far-names className={style.names}>
        {names.map(({ id, name, x, y }) => (
          <span
            key={id}
            className={style.name}
            style={{ transform: `translate(${x}px, ${y}px) scale(${1 / zoom}) translate(-50%, -50%)` }}
          >
            {name}
          </span>
        ))}
      </div>
    </ViewportPortal>
  );
}

/** Brings something of a map into the middle, once it is sought; within a map. */
export function Sought({ sought }: { readonly sought: { readonly id: string } | null }) {
  const flow = useReactFlow();
  const isStill = useReducedMotion();
  useEffect(() => {
    if (sought) void flow.fitView({ nodes: [sought], maxZoom: 1, minZoom: 0.8, duration: isStill ? 0 : 200 });
  }, [sought, flow, isStill]);
  return null;
}
