// Drawing a scene on a canvas, layer by layer, at once or in steps.
import type { Camera } from "./camera";
import {
  densityPicture,
  drawDensity,
  drawGroups,
  drawSymbols,
  reach,
  sizeAt,
  symbolPath,
  unitOf,
  symbolShown,
} from "./draw-symbols";
import { drawLabels } from "./draw-labels";
import { canvasContext } from "./elements";
import { tracePath } from "./draw-paths";
import { Shapes } from "./draw-shapes";
import { entry } from "./entry";
import { groupRadius } from "./groups";
import { HeatPainter } from "./heat";
import type { Disc } from "./labels";
import type { DensityLayer, HeatLayer } from "./plan";
import type { Hit, Scene } from "./scene";
import type { SectionDrawing } from "./section-layer";
import type { MapState } from "./state";
import { flat, mapped, screen, type Surface } from "./surface";
import { atOnce, type Work } from "./work";

// A picture, and where the reader looked then.
interface Still {
  canvas: HTMLCanvasElement;
  x: number;
  y: number;
  scale: number;
}

export class Painter {
  private readonly shapes: Shapes;
  private readonly sections: SectionDrawing | null;
  private readonly pictures = new Map<number, HTMLCanvasElement>();
  private readonly heats = new Map<number, HeatPainter>();
  private veilCanvas: HTMLCanvasElement | null = null;
  // The last picture, for what is too slow to be drawn while the map moves.
  private still: Still | null = null;
  // The whole map, which lies under a picture that is moved.
  private whole: Still | null = null;
  private readonly widths = new Map<string, number>();
  private readonly ground: CanvasRenderingContext2D;
  private readonly spare: HTMLCanvasElement[] = [];
  private readonly over: CanvasRenderingContext2D;

  constructor(
    private readonly scene: Scene,
    private readonly camera: Camera,
    private readonly state: MapState,
    [base, overlay]: [HTMLCanvasElement, HTMLCanvasElement],
    private readonly on: Surface = screen(),
  ) {
    this.shapes = new Shapes(scene, camera, state, this.on);
    this.sections = scene.sections?.painter(camera, state, this.on) ?? null;
    this.ground = canvasContext(base);
    this.over = canvasContext(overlay);
  }

  resize(): void {
    const dense = (this.on.dense = window.devicePixelRatio || 1);
    this.heats.forEach((h) => h.forget());
    for (const { canvas } of [this.ground, this.over]) {
      canvas.width = Math.round(this.camera.width * dense);
      canvas.height = Math.round(this.camera.height * dense);
    }
  }

  // Colours and paths are built anew, as after a change between light and dark.
  forget(): void {
    this.shapes.forget();
    this.sections?.forget();
    this.pictures.clear();
    this.heats.forEach((h) => h.forget());
  }

  // Paths for a view from so near, made before it is drawn.
  *prepare(zoom: number): Work<void> {
    for (const [i, layer] of this.scene.layers.entries()) {
      if (layer.kind !== "areas" && layer.kind !== "lines") continue;
      if (!this.state.hidden.has(i)) yield* this.shapes.prepare(layer, i, zoom);
    }
  }

  // The kept picture where it now belongs; false when there is none.
  shift(): boolean {
    if (!this.still) return false;
    this.clear(this.ground);
    if (this.whole) this.place(this.whole);
    // Where the picture lies, what is under it would show through what is faint in it.
    const [x, y, width, height] = this.spot(this.still);
    this.ground.clearRect(x, y, width, height);
    this.place(this.still);
    return true;
  }

  // Where a kept picture now lies, in pixels of the canvas.
  private spot({ canvas, x, y, scale }: Still): [number, number, number, number] {
    const { dense } = this.on;
    const times = (this.camera.scale * dense) / scale;
    const [px, py] = this.camera.toScreen(x, y);
    const [width, height] = [times * canvas.width, times * canvas.height];
    return [px * dense - width / 2, py * dense - height / 2, width, height];
  }

  private place(still: Still): void {
    this.ground.drawImage(still.canvas, ...this.spot(still));
  }

  draw(): void {
    this.clear(this.ground);
    atOnce(this.steps(this.ground));
  }

  // The picture in steps on a canvas of its own, which is then shown, and kept to be moved about.
  *redraw(): Work<void> {
    const back = this.back();
    this.clear(back);
    yield* this.steps(back);
    this.clear(this.ground);
    this.ground.drawImage(back.canvas, 0, 0);
    const { x, y, scale, zoom } = this.camera;
    this.still = { canvas: back.canvas, x, y, scale: scale * this.on.dense };
    if (zoom < 1 + 1e-9) this.whole = this.still;
  }

  *steps(c: CanvasRenderingContext2D): Work<void> {
    this.insets(c);
    for (const i of this.state.order) {
      if (!this.state.shownAt(i, this.camera.zoom)) continue;
      const faint = entry(this.state.opacity, i) < 1;
      const { open, close } = this.on;
      const veiled = faint && !open ? this.veil(c) : null;
      if (faint) open?.(entry(this.state.opacity, i));
      yield* this.layer(veiled ?? c, i);
      if (faint) close?.();
      if (veiled) {
        c.setTransform(1, 0, 0, 1, 0, 0);
        c.globalAlpha = entry(this.state.opacity, i);
        c.drawImage(veiled.canvas, 0, 0);
        c.globalAlpha = 1;
      }
      yield;
    }
  }

  private *layer(c: CanvasRenderingContext2D, i: number): Work<void> {
    const { camera, state } = this;
    const layer = entry(this.scene.layers, i);
    if (this.sections && this.scene.sections?.layer === i) return yield* this.sections.draw(c);
    if (layer.kind === "areas") return yield* this.shapes.areas(c, layer, i);
    if (layer.kind === "lines") return yield* this.shapes.lines(c, layer, i);
    flat(c, this.on);
    if (layer.kind === "symbols" && layer.plan.group) {
      const groups = this.scene.groups(i, camera.home, camera.zoom, state);
      yield* drawGroups(c, layer.plan, groups, camera, state, i);
    } else if (layer.kind === "symbols") {
      yield* drawSymbols(c, layer.plan, camera, state, i);
    }
    if (layer.kind === "heat") this.heat(i, layer.plan).draw(c, camera);
    if (layer.kind === "density") drawDensity(c, layer.plan, this.picture(i, layer.plan), camera);
    if (layer.kind === "labels")
      drawLabels(c, layer.plan, {
        camera,
        state,
        widths: this.widths,
        discs: this.discs(),
        grown: this.grown(),
      });
  }

  // What is chosen and what is pointed at, outlined on a canvas of its own.
  mark(hits: Hit[]): void {
    this.clear(this.over);
    for (const hit of hits) this.outline(hit);
  }

  private outline(hit: Hit): void {
    const c = this.over;
    if (this.sections && this.scene.sections?.layer === hit.layer)
      return this.sections.outline(c, hit.item, (path) => this.trace(c, path, true));
    const shape = this.shapeOf(hit);
    if (!shape) return;
    if (shape.mapped) mapped(c, this.on, this.camera);
    else flat(c, this.on);
    this.trace(c, shape.path, shape.mapped);
  }

  private trace(c: CanvasRenderingContext2D, path: Path2D, inMap: boolean): void {
    const unit = inMap ? 1 / this.camera.scale : 1;
    const { rim, text } = this.scene.payload.inks;
    c.lineJoin = "round";
    for (const [colour, width] of [
      [rim, 4.5],
      [text, 2],
    ] as const) {
      c.strokeStyle = colour;
      c.lineWidth = width * unit;
      c.stroke(path);
    }
  }

  private shapeOf(hit: Hit): { path: Path2D; mapped: boolean } | null {
    const layer = entry(this.scene.layers, hit.layer);
    if (layer.kind === "areas" || layer.kind === "lines")
      return { path: tracePath([entry(layer.fine.get(), hit.item)], this.on.path()), mapped: true };
    const path = this.on.path();
    if (hit.group) {
      const { x, y, items } = hit.group;
      path.arc(...this.camera.toScreen(x, y), groupRadius(items.length), 0, 2 * Math.PI);
      return { path, mapped: false };
    }
    if (layer.kind !== "symbols") return null;
    const [x, y] = this.camera.toScreen(
      entry(layer.plan.x, hit.item),
      entry(layer.plan.y, hit.item),
    );
    if (layer.plan.second) path.arc(x, y, reach(layer.plan, hit.item, this.camera), 0, 2 * Math.PI);
    else symbolPath(path, layer.plan, hit.item, [x, y], unitOf(layer.plan, this.camera));
    return { path, mapped: false };
  }

  // A frame around each inset, its label above.
  private insets(c: CanvasRenderingContext2D): void {
    flat(c, this.on);
    for (const { frame, label } of this.scene.payload.insets ?? []) {
      const [x0, y0] = this.camera.toScreen(frame[0], frame[3]);
      const [x1, y1] = this.camera.toScreen(frame[2], frame[1]);
      c.strokeStyle = this.scene.payload.inks.faint;
      c.lineWidth = 1;
      c.strokeRect(x0, y0, x1 - x0, y1 - y0);
      c.fillStyle = this.scene.payload.inks.soft;
      c.font = "12px system-ui, sans-serif";
      c.textBaseline = "bottom";
      c.fillText(label, x0, y0 - 3);
    }
  }

  private picture(i: number, plan: DensityLayer): HTMLCanvasElement {
    const picture = this.pictures.get(i) ?? densityPicture(plan);
    this.pictures.set(i, picture);
    return picture;
  }

  // How much larger symbols are than on the whole map.
  private grown(): number {
    return Math.max(
      1,
      ...this.scene.layers.map((layer) =>
        layer.kind === "symbols" ? sizeAt(layer.plan, this.camera.zoom) : 1,
      ),
    );
  }

  // Symbols that are shown, which labels keep clear of.
  private discs(): Disc[] {
    return this.scene.layers.flatMap((layer, i) => {
      if (layer.kind !== "symbols" || !this.state.shownAt(i, this.camera.zoom)) return [];
      return layer.plan.x.flatMap((x, k) => {
        if (!symbolShown(layer.plan, k, this.state.panel)) return [];
        const [px, py] = this.camera.toScreen(x, entry(layer.plan.y, k));
        return [{ x: px, y: py, r: 0.96 * reach(layer.plan, k, this.camera) }];
      });
    });
  }

  private heat(i: number, plan: HeatLayer): HeatPainter {
    const painter = this.heats.get(i) ?? new HeatPainter(plan);
    this.heats.set(i, painter);
    return painter;
  }

  // A canvas for a layer that is drawn faintly as a whole.
  private veil(under: CanvasRenderingContext2D): CanvasRenderingContext2D {
    const c = canvasContext((this.veilCanvas ??= document.createElement("canvas")));
    this.fit(c.canvas, under.canvas);
    this.clear(c);
    return c;
  }

  // A canvas that is not seen, of the size of the one that is; none that holds a kept picture.
  private back(): CanvasRenderingContext2D {
    const kept = [this.still?.canvas, this.whole?.canvas];
    let canvas = this.spare.find((one) => !kept.includes(one));
    if (!canvas) this.spare.push((canvas = document.createElement("canvas")));
    this.fit(canvas, this.ground.canvas);
    return canvasContext(canvas);
  }

  private fit(canvas: HTMLCanvasElement, { width, height }: HTMLCanvasElement): void {
    if (canvas.width !== width || canvas.height !== height)
      [canvas.width, canvas.height] = [width, height];
  }

  private clear(c: CanvasRenderingContext2D): void {
    c.setTransform(1, 0, 0, 1, 0, 0);
    c.clearRect(0, 0, c.canvas.width, c.canvas.height);
  }
}
