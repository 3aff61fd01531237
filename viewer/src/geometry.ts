// From arcs to drawable and searchable geometry, in map units with y upward.
import { entry } from "./entry";
import { PackedReader, signOf } from "./packed";
import type { Topology } from "./plan";
import type { Work } from "./work";

// Left, lower, right and upper edge; left is beyond right where there is nothing.
export type Box = [number, number, number, number];

// One area or one set of lines: runs of x, y in a flat array.
export interface Feature {
  rings: Float64Array[];
  closed: boolean;
  box: Box; // x0, y0, x1, y1; x0 > x1 when empty
}

// How many arcs or features are made between two looks at the clock.
const FEW = 64;

// The arcs of a layer's features: which rings are a feature's, which arcs are a ring's.
export interface Net {
  closed: Uint8Array; // 1 for areas
  featureEnd: Uint32Array; // into ringEnd
  ringEnd: Uint32Array; // into refs
  refs: Int32Array; // number of an arc, or ~number when it is run backwards
}

// Corners of each arc in map units.
export function* decodeArcs(topology: Topology): Work<Float64Array[]> {
  const { x0, y0, step } = topology;
  const reader = new PackedReader(topology.arcs);
  const out: Float64Array[] = [];
  while (!reader.done) {
    out.push(decodeArc(reader, x0, y0, step));
    if (out.length % FEW === 0) yield;
  }
  return out;
}

// Loops over corners stand in functions of their own: in a generator browsers run them slowly.
function decodeArc(reader: PackedReader, x0: number, y0: number, step: number): Float64Array {
  const arc = new Float64Array(2 * reader.next());
  let x = 0;
  let y = 0;
  for (let i = 0; i < arc.length; i += 2) {
    x += reader.signed();
    y += reader.signed();
    arc[i] = x0 + step * x;
    arc[i + 1] = y0 + step * y;
  }
  return arc;
}

export function* decodeNet(topology: Topology, layer: string): Work<Net> {
  const net = new NetReader(entry(topology.layers, layer));
  while (!net.done) {
    net.feature();
    if (net.closed.length % FEW === 0) yield;
  }
  return {
    closed: Uint8Array.from(net.closed),
    featureEnd: Uint32Array.from(net.featureEnd),
    ringEnd: Uint32Array.from(net.ringEnd),
    refs: Int32Array.from(net.refs),
  };
}

class NetReader {
  readonly closed: number[] = [];
  readonly featureEnd: number[] = [];
  readonly ringEnd: number[] = [];
  readonly refs: number[] = [];
  private readonly reader: PackedReader;
  private last = 0;

  constructor(text: string) {
    this.reader = new PackedReader(text);
  }
  get done(): boolean {
    return this.reader.done;
  }

  feature(): void {
    const { reader } = this;
    const kind = reader.next();
    this.closed.push(kind === 1 ? 1 : 0);
    const rings = kind ? reader.next() : 0;
    for (let r = 0; r < rings; r++) {
      for (let n = reader.next(); n > 0; n--) {
        const step = reader.next();
        this.last += signOf(Math.floor(step / 2));
        this.refs.push(step % 2 ? ~this.last : this.last);
      }
      this.ringEnd.push(this.refs.length);
    }
    this.featureEnd.push(this.ringEnd.length);
  }
}

// Arcs without the corners that lie nearer than `tolerance` to the one kept before. Ends stay, so
// that borders still meet; a ring of one arc keeps a triangle at least.
export function* thinArcs(arcs: Float64Array[], tolerance: number): Work<Float64Array[]> {
  const out: Float64Array[] = [];
  for (const arc of arcs) {
    out.push(thinArc(arc, tolerance * tolerance));
    if (out.length % FEW === 0) yield;
  }
  return out;
}

function thinArc(arc: Float64Array, least: number): Float64Array {
  const n = arc.length;
  if (n <= 8) return arc;
  const out = new Float64Array(n);
  out[0] = arc[0] ?? 0;
  out[1] = arc[1] ?? 0;
  let at = 2;
  for (let i = 2; i < n - 2; i += 2) {
    const dx = (arc[i] ?? 0) - (out[at - 2] ?? 0);
    const dy = (arc[i + 1] ?? 0) - (out[at - 1] ?? 0);
    // The last few are kept when nothing else was.
    if (dx * dx + dy * dy < least && !(at < 6 && n - i <= 8 - at)) continue;
    out[at++] = arc[i] ?? 0;
    out[at++] = arc[i + 1] ?? 0;
  }
  out[at++] = arc[n - 2] ?? 0;
  out[at++] = arc[n - 1] ?? 0;
  return out.slice(0, at);
}

// Joins arcs from one end of `refs` to another.
function joinArcs(refs: Int32Array, from: number, to: number, arcs: Float64Array[]): Float64Array {
  let size = 2;
  for (let r = from; r < to; r++) size += arcOf(arcs, entry(refs, r)).length - 2;
  const out = new Float64Array(size);
  let at = 0;
  for (let r = from; r < to; r++) {
    const back = entry(refs, r) < 0;
    const arc = arcOf(arcs, entry(refs, r));
    const n = arc.length;
    // Where an arc ends the next one begins.
    for (let k = r > from ? 2 : 0; k < n; k += 2) {
      const corner = back ? n - 2 - k : k;
      out[at++] = arc[corner] ?? 0;
      out[at++] = arc[corner + 1] ?? 0;
    }
  }
  return out;
}

const arcOf = (arcs: Float64Array[], ref: number): Float64Array =>
  entry(arcs, ref < 0 ? ~ref : ref);

// The arcs that a layer is made of, each once: a border between two areas is drawn one time.
export function arcsOf(net: Net, arcs: Float64Array[]): Float64Array[] {
  const seen = new Uint8Array(arcs.length);
  for (const ref of net.refs) seen[ref < 0 ? ~ref : ref] = 1;
  return arcs.filter((_, i) => seen[i]);
}

export function* decodeFeatures(net: Net, arcs: Float64Array[]): Work<Feature[]> {
  const out: Feature[] = [];
  let ring = 0;
  let ref = 0;
  for (const end of net.featureEnd) {
    const rings: Float64Array[] = [];
    for (; ring < end; ring++) {
      const refEnd = entry(net.ringEnd, ring);
      rings.push(joinArcs(net.refs, ref, refEnd, arcs));
      ref = refEnd;
    }
    out.push({ rings, closed: net.closed[out.length] === 1, box: boxOf(rings) });
    if (out.length % FEW === 0) yield;
  }
  return out;
}

function boxOf(rings: Float64Array[]): Box {
  let [x0, y0, x1, y1] = [Infinity, Infinity, -Infinity, -Infinity];
  for (const ring of rings) {
    for (let i = 0; i < ring.length; i += 2) {
      const x = ring[i] ?? 0;
      const y = ring[i + 1] ?? 0;
      if (x < x0) x0 = x;
      if (x > x1) x1 = x;
      if (y < y0) y0 = y;
      if (y > y1) y1 = y;
    }
  }
  return [x0, y0, x1, y1];
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
