// Where two sides of a border are too alike to be told apart and a reader needs to: pale areas
// against the paper, and areas without data against the others. Such borders get a thin line.
import { areApart } from "./contrast";
import { traceArcs } from "./draw-paths";
import { entry } from "./entry";
import type { Net } from "./geometry";
import type { MapState } from "./state";
import type { Work } from "./work";

const NOBODY = -1;
const FEW = 256;

// The features on the two sides of each arc; NOBODY where there is none.
export function* sidesOf(net: Net, arcs: number): Work<Int32Array> {
  const sides = new Int32Array(2 * arcs).fill(NOBODY);
  let [ring, ref] = [0, 0];
  for (const [feature, end] of net.featureEnd.entries()) {
    for (; ring < end; ring++) {
      for (const last = entry(net.ringEnd, ring); ref < last; ref++) {
        const one = entry(net.refs, ref);
        const arc = one < 0 ? ~one : one;
        sides[2 * arc + (entry(sides, 2 * arc) === NOBODY ? 0 : 1)] = feature;
      }
    }
    if (feature % FEW === 0) yield;
  }
  return sides;
}

// Is there nothing between a layer and the paper?
export function liesOnPaper(state: MapState, layer: number, zoom: number): boolean {
  const { backdrops, layers } = state.payload;
  const below = state.order.slice(0, state.order.indexOf(layer));
  return (
    (backdrops[state.backdrop]?.kind ?? "plain") === "plain" &&
    !below.some((at) => layers[at]?.kind === "areas" && state.shownAt(at, zoom))
  );
}

export interface Look {
  // Of each class its colour; that of no data is the first.
  colours: string[];
  paper: string;
  class: readonly number[];
  // Is the paper what the layer lies on?
  onPaper: boolean;
  isOff: (key: number) => boolean;
  // Rings of less than this, in map units, are only a spot of ink.
  least: number;
}

export function* seamPath(
  sides: Int32Array,
  arcs: Float64Array[],
  look: Look,
  path: Path2D,
): Work<Path2D> {
  const faint = look.colours.map((colour) => !areApart(colour, look.paper));
  const key = (feature: number): number => {
    const found = feature === NOBODY ? NOBODY : entry(look.class, feature);
    return found === NOBODY || look.isOff(found) ? NOBODY : found;
  };
  for (const [i, arc] of arcs.entries()) {
    if (i % FEW === 0) yield;
    const [a, b] = [key(entry(sides, 2 * i)), key(entry(sides, 2 * i + 1))];
    if (a === b) continue;
    const outer = a === NOBODY || b === NOBODY;
    const inside = Math.max(a, b);
    const needed = outer ? look.onPaper && faint[inside] : Math.min(a, b) === 0;
    if (needed && !isSpot(arc, look.least)) traceArcs([arc], path);
  }
  return path;
}

// A closed ring that is smaller than `least` both ways.
function isSpot(arc: Float64Array, least: number): boolean {
  const n = arc.length;
  if (arc[0] !== arc[n - 2] || arc[1] !== arc[n - 1]) return false;
  let [x0, y0, x1, y1] = [Infinity, Infinity, -Infinity, -Infinity];
  for (let i = 0; i < n; i += 2) {
    x0 = Math.min(x0, arc[i] ?? 0);
    x1 = Math.max(x1, arc[i] ?? 0);
    y0 = Math.min(y0, arc[i + 1] ?? 0);
    y1 = Math.max(y1, arc[i + 1] ?? 0);
  }
  return x1 - x0 < least && y1 - y0 < least;
}
