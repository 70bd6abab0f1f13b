import { lastIn } from '@/core/values';
import type { Point } from './map-places';

/** A type on the map, by its upper left corner. */
export interface MapBox extends Point {
  readonly key: string;
  readonly name: string;
  readonly fields: number;
  readonly isBridge: boolean;
  /** Its first fields with their kinds, where they are shown, and how many more there are. */
  readonly listed: readonly { readonly name: string; readonly kind: string }[];
  readonly width: number;
  readonly height: number;
}

/** A link on the map, from the child down to its parent's box; told apart by form. */
export interface MapLine {
  readonly id: string;
  /** The type that has the link, and its key. */
  readonly type: string;
  readonly link: string;
  readonly parent: string;
  readonly name: string;
  readonly otherEnd: string;
  readonly isRequired: boolean;
  readonly kind: 'link' | 'self' | 'open';
  readonly points: readonly Point[];
  /** The middle of its name's place. */
  readonly label: Point;
}

export interface MapLayout {
  readonly boxes: readonly MapBox[];
  readonly lines: readonly MapLine[];
  readonly width: number;
  readonly height: number;
}

/** What is shown of a model. */
export interface MapChoice {
  /** Only this type, those that it links to and those that link to it; `null` for all. */
  readonly near: string | null;
  readonly withFields: boolean;
}

export const WHOLE_MAP: MapChoice = { near: null, withFields: false };

/** From so many types on a layered map is a strip that can't be looked over: its layers are put into rows. */
export const MANY_TYPES = 60;

/** A line through points as an SVG path, with its corners rounded. */
export function pathOf(points: readonly Point[]): string {
  const [first, ...rest] = points;
  if (!first) return '';
  const last = lastIn(rest);
  const inner = rest.slice(0, -1);
  const parts = inner.map((point, at) => {
    const next = inner[at + 1] ?? last;
    const end = at === inner.length - 1 ? next : { x: (point.x + next.x) / 2, y: (point.y + next.y) / 2 };
    return `Q ${round(point)} ${round(end)}`;
  });
  return parts.length > 0 ? `M ${round(first)} ${parts.join(' ')}` : `M ${round(first)} L ${round(last)}`;
}

const round = ({ x, y }: Point): string => `${Math.round(x * 10) / 10} ${Math.round(y * 10) / 10}`;
