// The map as it is drawn and searched: each layer's geometry beside its part of the plan.
import { contains, decodeArcs, decodeFeatures, distanceTo, type Feature } from "./geometry";
import type { AreaLayer, LineLayer, Payload, SymbolLayer } from "./payload";

export interface Shapes<L> {
  plan: L;
  features: Feature[];
  index: BoxIndex;
}

export interface Hit {
  layer: number;
  item: number;
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
    return this.place(x, this.box[0], this.box[2]);
  }
  private row(y: number): number {
    return this.place(y, this.box[1], this.box[3]);
  }
  private place(v: number, low: number, high: number): number {
    const at = Math.floor(((v - low) / (high - low || 1)) * this.side);
    return Math.max(0, Math.min(this.side - 1, Number.isFinite(at) ? at : 0));
  }
}

export type SceneLayer = ({ kind: "areas" } & Shapes<AreaLayer>) | ({ kind: "lines" } & Shapes<LineLayer>) | { kind: "symbols"; plan: SymbolLayer };

export class Scene {
  readonly layers: SceneLayer[];

  constructor(readonly payload: Payload) {
    const arcs = decodeArcs(payload.topology);
    this.layers = payload.layers.map((plan): SceneLayer => {
      if (plan.kind === "symbols") return { kind: "symbols", plan };
      const features = decodeFeatures(payload.topology, arcs, plan.id);
      const index = new BoxIndex(features.map((f) => f.box));
      return plan.kind === "areas" ? { kind: "areas", plan, features, index } : { kind: "lines", plan, features, index };
    });
  }

  // The topmost thing with a label at a map position. `pixel` is one pixel in map units, `home`
  // the pixels of one map unit in the home view, which set how large symbols are.
  find(x: number, y: number, pixel: number, home: number): Hit | null {
    for (let layer = this.layers.length - 1; layer >= 0; layer--) {
      const item = this.findIn(this.layers[layer], x, y, pixel, home);
      if (item >= 0) return { layer, item };
    }
    return null;
  }

  private findIn(layer: SceneLayer, x: number, y: number, pixel: number, home: number): number {
    if (!layer.plan.hover && !layer.plan.popup) return -1;
    if (layer.kind === "areas") return layer.index.at(x, y).find((i) => contains(layer.features[i], x, y)) ?? -1;
    if (layer.kind === "lines") return layer.features.findIndex((f) => distanceTo(f, x, y) < 5 * pixel);
    const { x: xs, y: ys, r } = layer.plan;
    for (let i = xs.length - 1; i >= 0; i--) {
      if (Math.hypot(x - xs[i], y - ys[i]) <= Math.max(r[i] * home, 4) * pixel) return i;
    }
    return -1;
  }
}
