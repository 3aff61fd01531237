// From arcs to drawable and searchable geometry, in map units with y upward.
import { entry } from "./entry";
import type { Topology } from "./plan";

// Left, lower, right and upper edge; left is beyond right where there is nothing.
export type Box = [number, number, number, number];

// One area or one set of lines: runs of x, y in a flat array.
export interface Feature {
  rings: Float64Array[];
  closed: boolean;
  box: Box; // x0, y0, x1, y1; x0 > x1 when empty
}

export function decodeArcs(topology: Topology): Float64Array[] {
  const [sx, sy] = topology.transform.scale;
  const [tx, ty] = topology.transform.translate;
  return topology.arcs.map((arc) => {
    const out = new Float64Array(2 * arc.length);
    let x = 0;
    let y = 0;
    for (let i = 0; i < arc.length; i++) {
      x += entry(arc, i)[0];
      y += entry(arc, i)[1];
      out[2 * i] = tx + sx * x;
      out[2 * i + 1] = ty + sy * y;
    }
    return out;
  });
}

// Arcs without the corners that lie nearer than `tolerance` to the one kept before. Ends stay, so
// that borders still meet; a ring of one arc keeps a triangle at least.
export function thinArcs(arcs: Float64Array[], tolerance: number): Float64Array[] {
  const least = tolerance * tolerance;
  return arcs.map((arc) => {
    const n = arc.length;
    if (n <= 8) return arc;
    const out = new Float64Array(n);
    out[0] = entry(arc, 0);
    out[1] = entry(arc, 1);
    let at = 2;
    for (let i = 2; i < n - 2; i += 2) {
      const dx = entry(arc, i) - entry(out, at - 2);
      const dy = entry(arc, i + 1) - entry(out, at - 1);
      // The last few are kept when nothing else was.
      if (dx * dx + dy * dy < least && !(at < 6 && n - i <= 8 - at)) continue;
      out[at++] = entry(arc, i);
      out[at++] = entry(arc, i + 1);
    }
    out[at++] = entry(arc, n - 2);
    out[at++] = entry(arc, n - 1);
    return out.slice(0, at);
  });
}

// Joins arcs end to end; a negative number is the arc ~number run backwards.
export function joinArcs(refs: number[], arcs: Float64Array[]): Float64Array {
  let size = 0;
  refs.forEach((ref, i) => (size += entry(arcs, ref < 0 ? ~ref : ref).length - (i ? 2 : 0)));
  const out = new Float64Array(size);
  let at = 0;
  refs.forEach((ref, i) => {
    const arc = entry(arcs, ref < 0 ? ~ref : ref);
    const n = arc.length / 2;
    for (let k = i ? 1 : 0; k < n; k++) {
      const from = ref < 0 ? n - 1 - k : k;
      out[at++] = entry(arc, 2 * from);
      out[at++] = entry(arc, 2 * from + 1);
    }
  });
  return out;
}

// The arcs that an object is made of, each once: a border between two areas is drawn one time.
export function arcsOf(topology: Topology, arcs: Float64Array[], object: string): Float64Array[] {
  const seen = new Uint8Array(arcs.length);
  for (const geometry of entry(topology.objects, object).geometries) {
    const rings =
      geometry.type === "MultiPolygon"
        ? geometry.arcs.flat()
        : geometry.type === "MultiLineString"
          ? geometry.arcs
          : [];
    for (const ring of rings) for (const ref of ring) seen[ref < 0 ? ~ref : ref] = 1;
  }
  return arcs.filter((_, i) => seen[i]);
}

export function decodeFeatures(
  topology: Topology,
  arcs: Float64Array[],
  object: string,
): Feature[] {
  return entry(topology.objects, object).geometries.map((geometry) => {
    const refs =
      geometry.type === "MultiPolygon"
        ? geometry.arcs.flat()
        : geometry.type === "MultiLineString"
          ? geometry.arcs
          : [];
    const rings = refs.map((r) => joinArcs(r, arcs));
    let [x0, y0, x1, y1] = [Infinity, Infinity, -Infinity, -Infinity];
    for (const ring of rings) {
      for (let i = 0; i < ring.length; i += 2) {
        const x = entry(ring, i);
        const y = entry(ring, i + 1);
        if (x < x0) x0 = x;
        if (x > x1) x1 = x;
        if (y < y0) y0 = y;
        if (y > y1) y1 = y;
      }
    }
    return { rings, closed: geometry.type === "MultiPolygon", box: [x0, y0, x1, y1] };
  });
}

// Even-odd over all rings, so that a hole is outside.
export function contains(feature: Feature, x: number, y: number): boolean {
  const [x0, y0, x1, y1] = feature.box;
  if (!feature.closed || x < x0 || x > x1 || y < y0 || y > y1) return false;
  let inside = false;
  for (const ring of feature.rings) {
    for (let i = 0, j = ring.length - 2; i < ring.length; j = i, i += 2) {
      const yi = entry(ring, i + 1);
      const yj = entry(ring, j + 1);
      if (
        yi > y !== yj > y &&
        x < ((entry(ring, j) - entry(ring, i)) * (y - yi)) / (yj - yi) + entry(ring, i)
      )
        inside = !inside;
    }
  }
  return inside;
}

// Distance from a point to the nearest segment.
export function distanceTo(feature: Feature, x: number, y: number): number {
  let best = Infinity;
  for (const ring of feature.rings) {
    for (let i = 2; i < ring.length; i += 2) {
      const ax = entry(ring, i - 2);
      const ay = entry(ring, i - 1);
      const dx = entry(ring, i) - ax;
      const dy = entry(ring, i + 1) - ay;
      const length = dx * dx + dy * dy;
      const t = length ? Math.max(0, Math.min(1, ((x - ax) * dx + (y - ay) * dy) / length)) : 0;
      best = Math.min(best, Math.hypot(x - ax - t * dx, y - ay - t * dy));
    }
  }
  return best;
}
