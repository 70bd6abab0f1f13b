import { Graph, layout } from '@dagrejs/dagre';
import type { Feeding } from '@/core/plan';
import type { Point } from '@/ui/model/map/map-places';

/** A rule on the map, by its upper left corner. */
export interface RuleBox extends Point {
  readonly id: string;
  readonly width: number;
  readonly height: number;
}

/** From a rule to one that reads what it writes. */
export interface FeedLine {
  readonly id: string;
  readonly from: string;
  readonly to: string;
  readonly points: readonly Point[];
}

export interface RulesMap {
  readonly boxes: readonly RuleBox[];
  readonly lines: readonly FeedLine[];
}

export const BOX = { width: 212, height: 50 } as const;
/** Rules that feed none and are fed by none stand in rows of so many. */
const IN_A_ROW = 4;
const GAP = 16;

/** Places rules from left to right, each after those that feed it; the others beneath. Pure: the same rules, the same map. */
export function layOutRules(feeding: readonly Feeding[]): RulesMap {
  const fed = new Set(feeding.flatMap(({ feeds }) => feeds));
  const joined = feeding.filter(({ id, feeds }) => feeds.length > 0 || fed.has(id));
  const graph = new Graph({ multigraph: true });
  graph.setGraph({ rankdir: 'LR', nodesep: GAP, ranksep: 64, edgesep: 8, marginx: GAP, marginy: GAP });
  graph.setDefaultEdgeLabel(() => ({}));
  for (const { id } of joined) graph.setNode(id, { ...BOX });
  for (const { id, feeds } of joined) for (const to of feeds) graph.setEdge(id, to, {}, `${id} ${to}`);
  layout(graph);
  const { height = 0 } = graph.graph() as { height?: number };
  const alone = feeding.filter((one) => !joined.includes(one));
  return {
    boxes: [
      ...joined.map(({ id }): RuleBox => {
        const { x, y } = graph.node(id) as Point;
        return { id, ...BOX, x: x - BOX.width / 2, y: y - BOX.height / 2 };
      }),
      ...alone.map(({ id }, at): RuleBox => ({
        ...{ id, ...BOX, x: GAP + (at % IN_A_ROW) * (BOX.width + GAP) },
        y: height + GAP * 2 + Math.floor(at / IN_A_ROW) * (BOX.height + GAP),
      })),
    ],
    lines: joined.flatMap(({ id, feeds }) =>
      feeds.map((to): FeedLine => {
        const name = `${id} ${to}`;
        const { points } = graph.edge({ v: id, w: to, name }) as { points: Point[] };
        return { id: name, from: id, to, points };
      }),
    ),
  };
}
