// Paths of rings and arcs in map units.
import type { Feature } from "./geometry";
import type { AreaLayer } from "./plan";

// Rings end in their first corner, so they need no closing, which in browsers takes the longer
// the more there is of a path.
export function tracePath(features: Feature[], path = new Path2D()): Path2D {
  for (const feature of features) {
    for (const ring of feature.rings) {
      path.moveTo(ring[0] ?? 0, ring[1] ?? 0);
      for (let i = 2; i < ring.length; i += 2) path.lineTo(ring[i] ?? 0, ring[i + 1] ?? 0);
    }
  }
  return path;
}

export function traceArcs(arcs: Float64Array[], path = new Path2D()): Path2D {
  for (const arc of arcs) {
    path.moveTo(arc[0] ?? 0, arc[1] ?? 0);
    for (let i = 2; i < arc.length; i += 2) path.lineTo(arc[i] ?? 0, arc[i + 1] ?? 0);
  }
  return path;
}

// Of the land at most this share is border.
const BORDER_SHARE = 0.1;
// Narrower than this, in CSS px, a border is left out.
const LEAST_BORDER = 0.25;
// The edges of a line are blurred over part of a pixel.
const BLUR = 1;

// The width of borders in CSS px where a map unit is so many of them; 0 for none. R has the same
// rule in border_width().
export function borderWidth(
  layer: Pick<AreaLayer, "border" | "spacing">,
  scale: number,
  blur = BLUR,
): number {
  if (layer.spacing === null) return layer.border;
  const room = BORDER_SHARE * layer.spacing * scale - blur;
  return room < LEAST_BORDER ? 0 : Math.min(layer.border, room);
}
