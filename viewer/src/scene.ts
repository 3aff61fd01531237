// The map as it is drawn and searched: each layer's geometry beside its part of the plan.
import { lineWidth, sizeAt, symbolShown } from "./draw-symbols";
import { entry } from "./entry";
import { cellSide, groupPoints, groupRadius, groupZoom, type Group } from "./groups";
import {
  arcsOf,
  contains,
  decodeArcs,
  decodeFeatures,
  decodeNet,
  distanceTo,
  thinArcs,
  type Box,
  type Feature,
  type Net,
} from "./geometry";
import type {
  AreaLayer,
  DensityLayer,
  HeatLayer,
  NamesLayer,
  LineLayer,
  Plan,
  SymbolLayer,
} from "./plan";
import { cellOf, PointIndex } from "./point-index";
import type { SectionLayer } from "./section-layer";
import { areaPanel, classAt, type MapState } from "./state";
import { Made, type Work } from "./work";

export interface Shapes<L> {
  plan: L;
  net: Made<Net>;
  fine: Made<Feature[]>;
  index: Made<BoxIndex>;
  // The same with fewer corners, for the home view.
  coarse: Made<Feature[]>;
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
  private box: Box = [Infinity, Infinity, -Infinity, -Infinity];

  private constructor(boxes: Box[]) {
    for (const b of boxes) {
      if (b[0] > b[2]) continue;
      this.box = [
        Math.min(this.box[0], b[0]),
        Math.min(this.box[1], b[1]),
        Math.max(this.box[2], b[2]),
        Math.max(this.box[3], b[3]),
      ];
    }
    this.side = Math.max(1, Math.min(256, Math.ceil(Math.sqrt(boxes.length))));
    this.cells = Array.from({ length: this.side * this.side }, () => []);
  }

  static *of(boxes: Box[]): Work<BoxIndex> {
    const index = new BoxIndex(boxes);
    for (const [i, box] of boxes.entries()) {
      if (box[0] <= box[2]) index.add(i, box);
      if (i % 256 === 255) yield;
    }
    return index;
  }

  private add(i: number, b: Box): void {
    for (let cy = this.row(b[1]); cy <= this.row(b[3]); cy++) {
      for (let cx = this.column(b[0]); cx <= this.column(b[2]); cx++)
        entry(this.cells, cy * this.side + cx).push(i);
    }
  }

  at(x: number, y: number): number[] {
    return entry(this.cells, this.row(y) * this.side + this.column(x));
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

// Corners nearer than this share of the frame are not told apart in the home view (half a pixel
// of a wide screen).
const COARSE = 1 / 2400;

export class Scene {
  readonly layers: SceneLayer[];
  // The layer whose areas come as they are seen, where there is one.
  sections: SectionLayer | null = null;
  private readonly points = new Map<number, { index: PointIndex; most: number }>();
  private readonly grouped = new Map<number, { key: string; groups: Group[] }>();

  private readonly arcs: Made<Float64Array[]>;
  private readonly thin: Made<Float64Array[]>;

  constructor(readonly payload: Plan) {
    const [x0, y0, x1, y1] = payload.frame;
    this.arcs = new Made(() => decodeArcs(payload.topology));
    const tolerance = Math.max(x1 - x0, y1 - y0) * COARSE;
    this.thin = new Made(
      function* (this: Scene): Work<Float64Array[]> {
        return yield* thinArcs(yield* this.arcs.steps(), tolerance);
      }.bind(this),
    );
    this.layers = payload.layers.map((plan): SceneLayer => {
      if (plan.kind === "areas") return { kind: "areas", ...this.shapes(plan) };
      if (plan.kind === "lines") return { kind: "lines", ...this.shapes(plan) };
      return { kind: plan.kind, plan } as SceneLayer;
    });
  }

  // Places and sizes of symbols have changed.
  forget(): void {
    this.points.clear();
    this.grouped.clear();
  }

  // Arcs with all corners, or with those that the home view tells apart.
  arcsOf(net: Net, detail: Detail): Float64Array[] {
    return arcsOf(net, (detail === "fine" ? this.arcs : this.thin).get());
  }

  allArcs(detail: Detail): Float64Array[] {
    return (detail === "fine" ? this.arcs : this.thin).get();
  }

  // What the first picture needs, and what pointing does.
  *first(state: MapState): Work<void> {
    yield* this.thin.steps();
    for (const [i, layer] of this.layers.entries())
      if ("coarse" in layer && !state.hidden.has(i)) yield* layer.coarse.steps();
  }
  *second(): Work<void> {
    for (const layer of this.layers) if ("index" in layer) yield* layer.index.steps();
  }

  private shapes<L extends AreaLayer | LineLayer>(plan: L): Shapes<L> {
    const { topology } = this.payload;
    const net = new Made(() => decodeNet(topology, plan.id));
    const features = (arcs: Made<Float64Array[]>) =>
      new Made(function* (): Work<Feature[]> {
        return yield* decodeFeatures(yield* net.steps(), yield* arcs.steps());
      });
    const fine = features(this.arcs);
    const index = new Made(function* (): Work<BoxIndex> {
      const boxes = (yield* fine.steps()).map((f) => f.box);
      return yield* BoxIndex.of(boxes);
    });
    return { plan, net, fine, index, coarse: features(this.thin) };
  }

  // The topmost thing with a label at a map position. `pixel` is one pixel in map units, `home`
  // the pixels of one map unit in the home view, which set how large symbols are.
  find(x: number, y: number, pixel: number, home: number, state: MapState, zoom = 1): Hit | null {
    const at: Probe = { x, y, pixel, home, zoom, state };
    for (const layer of [...state.order].reverse()) {
      if (!state.shownAt(layer, zoom)) continue;
      const known = entry(this.layers, layer);
      const grouped = known.kind === "symbols" && known.plan.group;
      const group = grouped ? this.groupAt(layer, at) : null;
      if (group) return { layer, item: entry(group.items, 0), group };
      const item = this.findIn(known, layer, at);
      if (item >= 0) return { layer, item };
    }
    return null;
  }

  private findIn(layer: SceneLayer, index: number, at: Probe): number {
    if (layer.kind === "density" || layer.kind === "heat" || layer.kind === "labels") return -1;
    const { x, y, state, zoom } = at;
    const texts = areaPanel(layer.plan, state.panel) ?? layer.plan;
    if (!texts.hover && !texts.popup) return -1;
    if (layer.kind === "symbols") return this.symbolAt(layer.plan, index, at);
    if (layer.kind === "areas" && this.sections?.layer === index)
      return this.sections.find(x, y, state);
    if (layer.kind === "areas") {
      const features = layer.fine.get();
      const near = layer.index.get().at(x, y);
      const item = near.find((i) => contains(entry(features, i), x, y)) ?? -1;
      const key = classAt(layer.plan, item, state.panel);
      return item >= 0 && key !== undefined && state.isOff(index, key) ? -1 : item;
    }
    return layer.fine.get().findIndex((f, i) => {
      const width = lineWidth(layer.plan, i, zoom);
      return width > 0 && isNear(f, x, y, Math.max(5, width / 2 + 2) * at.pixel);
    });
  }

  // Where an area or a line lies; null for other layers, and for what is not loaded.
  boxOf(at: number, item: number): Box | null {
    if (this.sections?.layer === at) return this.sections.box(item);
    const layer = entry(this.layers, at);
    if (layer.kind !== "areas" && layer.kind !== "lines") return null;
    return entry(layer.fine.get(), item).box;
  }

  // Groups of a layer at a zoom; made anew when the zoom has gone a step, or what is shown has
  // changed.
  groups(at: number, home: number, zoom: number, state: MapState): Group[] {
    const layer = entry(this.layers, at);
    if (layer.kind !== "symbols" || !layer.plan.group) return [];
    const key = `${home} ${groupZoom(zoom)} ${state.panel} ${state.offText(at)}`;
    const known = this.grouped.get(at);
    if (known?.key === key) return known.groups;
    const { plan } = layer;
    const groups = groupPoints(
      plan.x,
      plan.y,
      (i) =>
        symbolShown(plan, i, state.panel) &&
        !(plan.key && state.isOff(at, entry(plan.key.class, i))),
      cellSide(zoom, home),
    );
    this.grouped.set(at, { key, groups });
    return groups;
  }

  private groupAt(index: number, { x, y, pixel, home, zoom, state }: Probe): Group | null {
    const groups = this.groups(index, home, zoom, state);
    const covers = ({ items, x: gx, y: gy }: Group) =>
      items.length > 1 && Math.hypot(gx - x, gy - y) <= groupRadius(items.length) * pixel;
    return groups.find(covers) ?? null;
  }

  // Small symbols lie on top, and are the last.
  private symbolAt(plan: SymbolLayer, index: number, at: Probe): number {
    const { x, y, pixel, state } = at;
    const { x: xs, y: ys, key } = plan;
    const size = at.home * sizeAt(plan, at.zoom) * pixel;
    const known = this.points.get(index) ?? { index: new PointIndex(xs, ys), most: largest(plan) };
    this.points.set(index, known);
    return known.index.last(x, y, Math.max(known.most * size, 4 * pixel), (i) => {
      if (!symbolShown(plan, i, state.panel)) return false;
      if (key && state.isOff(index, entry(key.class, i))) return false;
      return covers(plan, i, [Math.abs(x - entry(xs, i)), y - entry(ys, i)], size, pixel);
    });
  }
}

// Where somebody points, and what is shown there.
interface Probe {
  x: number;
  y: number;
  pixel: number;
  home: number;
  zoom: number;
  state: MapState;
}

// Does a symbol cover a place so far from its own? Small ones are taken a little larger.
function covers(
  plan: SymbolLayer,
  i: number,
  [dx, dy]: [number, number],
  size: number,
  pixel: number,
): boolean {
  const { bar, r, second } = plan;
  if (!bar) {
    const reach = Math.max(entry(r, i), second?.r[i] ?? 0) * size;
    return Math.hypot(dx, dy - lift(plan) * reach) <= Math.max(reach, 4 * pixel);
  }
  const wide = Math.max((bar.width * size) / 2, 3 * pixel);
  return dx <= wide && dy >= -3 * pixel && dy <= entry(bar.height, i) * size + 3 * pixel;
}

// How far the middle of a shape stands above its place, in radii: that of a pin does.
function lift({ outline }: SymbolLayer): number {
  return outline ? (Math.max(...outline.y) + Math.min(...outline.y)) / 2 : 0;
}

// How far the largest symbol reaches, in units of a radius.
function largest(plan: SymbolLayer): number {
  let most = plan.bar ? plan.bar.width : 0;
  for (let i = 0; i < plan.x.length; i++)
    most = Math.max(
      most,
      plan.bar ? entry(plan.bar.height, i) : Math.max(entry(plan.r, i), plan.second?.r[i] ?? 0),
    );
  return most * (1 + lift(plan));
}

// Is a position so near to a line? Its box is asked first.
function isNear(feature: Feature, x: number, y: number, reach: number): boolean {
  const [x0, y0, x1, y1] = feature.box;
  return (
    x >= x0 - reach &&
    x <= x1 + reach &&
    y >= y0 - reach &&
    y <= y1 + reach &&
    distanceTo(feature, x, y) < reach
  );
}

// From this zoom on shapes are drawn with all their corners.
export const NEAR = 2.5;

export type Detail = "coarse" | "fine";

export const detailAt = (zoom: number): Detail => (zoom < NEAR ? "coarse" : "fine");
