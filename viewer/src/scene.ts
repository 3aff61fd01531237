// The map as it is drawn and searched: each layer's geometry beside its part of the plan.
import { lineWidth, sizeAt, symbolShown } from "./draw-symbols";
import { cellSide, groupPoints, groupRadius, groupZoom, type Group } from "./groups";
import { arcsOf, contains, decodeArcs, decodeFeatures, distanceTo, thinArcs, type Feature } from "./geometry";
import type { AreaLayer, DensityLayer, HeatLayer, NamesLayer, LineLayer, Payload, SymbolLayer } from "./payload";
import { cellOf, PointIndex } from "./point-index";
import { areaPanel, classAt, type MapState } from "./state";

export interface Shapes<L> {
  plan: L;
  count: number;
  readonly features: Feature[];
  readonly index: BoxIndex;
  edges: () => Float64Array[];
  // The same with fewer corners, for the home view.
  coarse: () => Feature[];
  coarseEdges: () => Float64Array[];
}

export interface Hit {
  layer: number;
  item: number;
  // Several points that are drawn as one.
  group?: Group;
}

// A grid over the boxes of features: a look-up reads one cell. Cells are about as many as
// features, and a feature is entered in every cell that its box touches.
export class BoxIndex {
  private readonly cells: number[][];
  private readonly side: number;
  private readonly box: [number, number, number, number] = [Infinity, Infinity, -Infinity, -Infinity];

  constructor(boxes: Feature["box"][]) {
    for (const b of boxes) {
      if (b[0] > b[2]) continue;
      this.box = [Math.min(this.box[0], b[0]), Math.min(this.box[1], b[1]), Math.max(this.box[2], b[2]), Math.max(this.box[3], b[3])];
    }
    this.side = Math.max(1, Math.min(256, Math.ceil(Math.sqrt(boxes.length))));
    this.cells = Array.from({ length: this.side * this.side }, () => []);
    boxes.forEach((b, i) => {
      if (b[0] > b[2]) return;
      for (let cy = this.row(b[1]); cy <= this.row(b[3]); cy++) {
        for (let cx = this.column(b[0]); cx <= this.column(b[2]); cx++) this.cells[cy * this.side + cx].push(i);
      }
    });
  }

  at(x: number, y: number): number[] {
    return this.cells[this.row(y) * this.side + this.column(x)];
  }

  private column(x: number): number {
    return cellOf(x, this.box[0], this.box[2], this.side);
  }
  private row(y: number): number {
    return cellOf(y, this.box[1], this.box[3], this.side);
  }
}

type Other<K, L> = { kind: K; plan: L };
export type SceneLayer =
  | ({ kind: "areas" } & Shapes<AreaLayer>)
  | ({ kind: "lines" } & Shapes<LineLayer>)
  | Other<"symbols", SymbolLayer>
  | Other<"density", DensityLayer>
  | Other<"heat", HeatLayer>
  | Other<"labels", NamesLayer>;

// Corners nearer than this share of the frame are not told apart in the home view (half a pixel of a wide screen).
const COARSE = 1 / 2400;

export class Scene {
  readonly layers: SceneLayer[];
  private readonly points = new Map<number, { index: PointIndex; most: number }>();
  private readonly grouped = new Map<number, { key: string; groups: Group[] }>();

  constructor(readonly payload: Payload) {
    const arcs = decodeArcs(payload.topology);
    let thin: Float64Array[] | null = null;
    const [x0, y0, x1, y1] = payload.frame;
    this.layers = payload.layers.map((plan): SceneLayer => {
      if (plan.kind === "symbols") return { kind: "symbols", plan };
      if (plan.kind === "density") return { kind: "density", plan };
      if (plan.kind === "heat") return { kind: "heat", plan };
      if (plan.kind === "labels") return { kind: "labels", plan };
      // The first picture needs the coarse ones only; the others are made when somebody points or comes near, or while nothing else is to be done.
      let fine: Feature[] | null = null;
      let index: BoxIndex | null = null;
      let coarse: Feature[] | null = null;
      const fewer = () => (thin ??= thinArcs(arcs, Math.max(x1 - x0, y1 - y0) * COARSE));
      const shapes = {
        count: payload.topology.objects[plan.id].geometries.length,
        get features() {
          return (fine ??= decodeFeatures(payload.topology, arcs, plan.id));
        },
        get index() {
          return (index ??= new BoxIndex(this.features.map((f) => f.box)));
        },
        edges: () => arcsOf(payload.topology, arcs, plan.id),
        coarse: () => (coarse ??= decodeFeatures(payload.topology, fewer(), plan.id)), coarseEdges: () => arcsOf(payload.topology, fewer(), plan.id),
      };
      return Object.assign(shapes, plan.kind === "areas" ? { kind: "areas" as const, plan } : { kind: "lines" as const, plan }) as SceneLayer;
    });
  }

  // The topmost thing with a label at a map position. `pixel` is one pixel in map units, `home`
  // the pixels of one map unit in the home view, which set how large symbols are.
  find(x: number, y: number, pixel: number, home: number, state: MapState, zoom = 1): Hit | null {
    for (const layer of [...state.order].reverse()) {
      if (!state.shownAt(layer, zoom)) continue;
      const known = this.layers[layer];
      const group = known.kind === "symbols" && known.plan.group ? this.groupAt(layer, x, y, pixel, home, state, zoom) : null;
      if (group) return { layer, item: group.items[0], group };
      const item = this.findIn(known, layer, x, y, pixel, home, state, zoom);
      if (item >= 0) return { layer, item };
    }
    return null;
  }

  private findIn(layer: SceneLayer, at: number, x: number, y: number, pixel: number, home: number, state: MapState, zoom: number): number {
    if (layer.kind === "density" || layer.kind === "heat" || layer.kind === "labels") return -1;
    const texts = areaPanel(layer.plan, state.panel) ?? layer.plan;
    if (!texts.hover && !texts.popup) return -1;
    if (layer.kind === "areas") {
      const item = layer.index.at(x, y).find((i) => contains(layer.features[i], x, y)) ?? -1;
      return item >= 0 && state.isOff(at, classAt(layer.plan, item, state.panel)!) ? -1 : item;
    }
    if (layer.kind === "lines") return layer.features.findIndex((f, i) => lineWidth(layer.plan, i, zoom) > 0 && near(f, x, y, Math.max(5, lineWidth(layer.plan, i, zoom) / 2 + 2) * pixel));
    return this.symbolAt(layer.plan, at, x, y, pixel, home * sizeAt(layer.plan, zoom), state);
  }

  // Groups of a layer at a zoom; made anew when the zoom has gone a step, or what is shown has changed.
  groups(at: number, home: number, zoom: number, state: MapState): Group[] {
    const layer = this.layers[at];
    if (layer.kind !== "symbols" || !layer.plan.group) return [];
    const key = `${home} ${groupZoom(zoom)} ${state.panel} ${state.offText(at)}`;
    const known = this.grouped.get(at);
    if (known?.key === key) return known.groups;
    const { plan } = layer;
    const groups = groupPoints(plan.x, plan.y, (i) => symbolShown(plan, i, state.panel) && !(plan.key && state.isOff(at, plan.key.class[i])), cellSide(zoom, home));
    this.grouped.set(at, { key, groups });
    return groups;
  }

  private groupAt(at: number, x: number, y: number, pixel: number, home: number, state: MapState, zoom: number): Group | null {
    return this.groups(at, home, zoom, state).find((g) => g.items.length > 1 && Math.hypot(g.x - x, g.y - y) <= groupRadius(g.items.length) * pixel) ?? null;
  }

  // Small symbols lie on top, and are the last.
  private symbolAt(plan: SymbolLayer, at: number, x: number, y: number, pixel: number, home: number, state: MapState): number {
    const { x: xs, y: ys, r, bar, second } = plan;
    const size = home * pixel;
    const known = this.points.get(at) ?? { index: new PointIndex(xs, ys), most: largest(plan) };
    this.points.set(at, known);
    return known.index.last(x, y, Math.max(known.most * size, 4 * pixel), (i) => {
      if (!symbolShown(plan, i, state.panel) || (plan.key && state.isOff(at, plan.key.class[i]))) return false;
      const dx = Math.abs(x - xs[i]);
      const dy = y - ys[i];
      if (bar) return dx <= Math.max((bar.width * size) / 2, 3 * pixel) && dy >= -3 * pixel && dy <= bar.height[i] * size + 3 * pixel;
      return Math.hypot(dx, dy) <= Math.max(Math.max(r[i], second?.r[i] ?? 0) * size, 4 * pixel);
    });
  }
}

// How far the largest symbol reaches, in units of a radius.
function largest(plan: SymbolLayer): number {
  let most = plan.bar ? plan.bar.width : 0;
  for (let i = 0; i < plan.x.length; i++) most = Math.max(most, plan.bar ? plan.bar.height[i] : Math.max(plan.r[i], plan.second?.r[i] ?? 0));
  return most;
}

// Is a position so near to a line? Its box is asked first.
function near(feature: Feature, x: number, y: number, reach: number): boolean {
  const [x0, y0, x1, y1] = feature.box;
  return x >= x0 - reach && x <= x1 + reach && y >= y0 - reach && y <= y1 + reach && distanceTo(feature, x, y) < reach;
}
