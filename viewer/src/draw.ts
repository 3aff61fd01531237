// Drawing a scene on a canvas. Paths are built once in map units, one for each class and one
// for all borders, and drawn under the camera's transform; only line widths follow the zoom.
import type { Camera } from "./camera";
import type { Feature } from "./geometry";
import type { SymbolLayer } from "./payload";
import type { Hit, Scene, SceneLayer } from "./scene";

interface Paths {
  fills: { colour: string; path: Path2D }[];
  edges: Path2D;
}

export function tracePath(features: Feature[], path = new Path2D()): Path2D {
  for (const feature of features) {
    for (const ring of feature.rings) {
      path.moveTo(ring[0], ring[1]);
      for (let i = 2; i < ring.length; i += 2) path.lineTo(ring[i], ring[i + 1]);
      if (feature.closed) path.closePath();
    }
  }
  return path;
}

function buildPaths(layer: SceneLayer): Paths {
  if (layer.kind === "symbols") return { fills: [], edges: new Path2D() };
  const edges = tracePath(layer.features);
  if (layer.kind === "lines") return { fills: [], edges };
  const colours = [layer.plan.no_data.colour, ...layer.plan.colours];
  const fills = colours.map((colour, k) => ({ colour, path: tracePath(layer.features.filter((_, i) => layer.plan.class[i] === k)) }));
  return { fills, edges };
}

export class Painter {
  private readonly paths: Paths[];
  private readonly ground: CanvasRenderingContext2D;
  private readonly over: CanvasRenderingContext2D;

  constructor(private readonly scene: Scene, private readonly camera: Camera, base: HTMLCanvasElement, overlay: HTMLCanvasElement) {
    this.paths = scene.layers.map(buildPaths);
    this.ground = base.getContext("2d")!;
    this.over = overlay.getContext("2d")!;
  }

  resize(): void {
    const dense = window.devicePixelRatio || 1;
    for (const { canvas } of [this.ground, this.over]) {
      canvas.width = Math.round(this.camera.width * dense);
      canvas.height = Math.round(this.camera.height * dense);
    }
  }

  draw(): void {
    this.clear(this.ground);
    this.insets(this.ground);
    this.scene.layers.forEach((layer, i) => {
      if (layer.kind !== "symbols") return this.shapes(this.ground, layer, this.paths[i]);
      this.flat(this.ground);
      for (let k = 0; k < layer.plan.x.length; k++) this.disc(this.ground, layer.plan, k);
    });
  }

  // The area, line or symbol under the pointer, outlined on a canvas of its own.
  mark(hit: Hit | null): void {
    this.clear(this.over);
    if (!hit) return;
    const layer = this.scene.layers[hit.layer];
    const c = this.over;
    if (layer.kind === "symbols") {
      const [x, y] = this.camera.toScreen(layer.plan.x[hit.item], layer.plan.y[hit.item]);
      this.flat(c);
      c.beginPath();
      c.arc(x, y, layer.plan.r[hit.item] * this.camera.home + 1, 0, 2 * Math.PI);
    } else {
      this.mapped(c);
    }
    const path = layer.kind === "symbols" ? null : tracePath([layer.features[hit.item]]);
    const unit = layer.kind === "symbols" ? 1 : 1 / this.camera.scale;
    for (const [colour, width] of [["#ffffff", 4.5], ["#1d1b19", 2]] as const) {
      c.strokeStyle = colour;
      c.lineWidth = width * unit;
      c.lineJoin = "round";
      if (path) c.stroke(path);
      else c.stroke();
    }
  }

  // A frame around each inset, its label above.
  private insets(c: CanvasRenderingContext2D): void {
    this.flat(c);
    for (const { frame, label } of this.scene.payload.insets ?? []) {
      const [x0, y0] = this.camera.toScreen(frame[0], frame[3]);
      const [x1, y1] = this.camera.toScreen(frame[2], frame[1]);
      c.strokeStyle = "#8c8a87";
      c.lineWidth = 1;
      c.strokeRect(x0, y0, x1 - x0, y1 - y0);
      c.fillStyle = "#5b5855";
      c.font = "12px system-ui, sans-serif";
      c.textBaseline = "bottom";
      c.fillText(label, x0, y0 - 3);
    }
  }

  private shapes(c: CanvasRenderingContext2D, layer: Exclude<SceneLayer, { kind: "symbols" }>, paths: Paths): void {
    this.mapped(c);
    const pixel = 1 / this.camera.scale;
    c.lineJoin = "round";
    for (const { colour, path } of paths.fills) {
      c.fillStyle = colour;
      c.fill(path, "evenodd");
    }
    if (layer.kind === "lines") {
      c.strokeStyle = layer.plan.colour;
      c.lineWidth = layer.plan.width * 1.33 * pixel;
      c.setLineDash(layer.plan.dash ? [4 * c.lineWidth, 3 * c.lineWidth] : []);
    } else {
      c.strokeStyle = layer.plan.outline;
      c.lineWidth = 0.8 * pixel;
    }
    c.stroke(paths.edges);
    c.setLineDash([]);
    if (layer.kind === "areas" && layer.plan.hatch) this.hatch(c, paths.fills[layer.plan.hatch.class].path, layer.plan.hatch.colour);
  }

  // Rising diagonals on the screen, seven pixels apart, inside of a path.
  private hatch(c: CanvasRenderingContext2D, path: Path2D, colour: string): void {
    const { width, height } = this.camera;
    c.save();
    c.clip(path, "evenodd");
    this.flat(c);
    c.beginPath();
    for (let x = -height; x < width; x += 7) {
      c.moveTo(x, height);
      c.lineTo(x + height, 0);
    }
    c.strokeStyle = colour;
    c.lineWidth = 1.2;
    c.stroke();
    c.restore();
    // Its border is of the same ink: a pale one would not be seen.
    this.mapped(c);
    c.strokeStyle = colour;
    c.lineWidth = 0.9 / this.camera.scale;
    c.stroke(path);
  }

  private disc(c: CanvasRenderingContext2D, plan: SymbolLayer, i: number): void {
    const [x, y] = this.camera.toScreen(plan.x[i], plan.y[i]);
    const r = plan.r[i] * this.camera.home;
    if (x < -r || y < -r || x > this.camera.width + r || y > this.camera.height + r) return;
    c.beginPath();
    c.arc(x, y, r, 0, 2 * Math.PI);
    const k = plan.key?.class[i];
    c.fillStyle = k === undefined ? plan.colour : k > 0 ? plan.key!.colours[k - 1] : plan.key!.no_data.colour;
    c.globalAlpha = plan.key ? 0.9 : 0.62;
    c.fill();
    c.globalAlpha = 1;
    c.strokeStyle = "#ffffff";
    c.lineWidth = 1;
    c.stroke();
  }

  private clear(c: CanvasRenderingContext2D): void {
    c.setTransform(1, 0, 0, 1, 0, 0);
    c.clearRect(0, 0, c.canvas.width, c.canvas.height);
  }
  private flat(c: CanvasRenderingContext2D): void {
    const dense = window.devicePixelRatio || 1;
    c.setTransform(dense, 0, 0, dense, 0, 0);
  }
  private mapped(c: CanvasRenderingContext2D): void {
    const dense = window.devicePixelRatio || 1;
    const { scale, x, y, width, height } = this.camera;
    const s = scale * dense;
    c.setTransform(s, 0, 0, -s, (width / 2) * dense - x * s, (height / 2) * dense + y * s);
  }
}
