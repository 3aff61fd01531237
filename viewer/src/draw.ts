// Drawing a scene on a canvas. The path of each feature is built once in map units and drawn
// under the camera's transform; those of one class are drawn together, and only line widths
// follow the zoom. Zoomed out, coarser arcs are drawn.
import type { Camera } from "./camera";
import {
  CASING,
  dashes,
  densityPicture,
  drawDensity,
  drawEachLine,
  drawGroups,
  drawSymbols,
  lineWidth,
  reach,
  sizeAt,
  symbolPath,
  unitOf,
  symbolShown,
} from "./draw-symbols";
import { drawLabels } from "./draw-labels";
import { canvasContext } from "./elements";
import { borderWidth, traceArcs, tracePath } from "./draw-paths";
import { entry } from "./entry";
import type { Feature } from "./geometry";
import { groupRadius } from "./groups";
import { HeatPainter } from "./heat";
import type { Disc } from "./labels";
import type { DensityLayer, HeatLayer } from "./plan";
import { detailAt, type Hit, NEAR, type Scene, type SceneLayer } from "./scene";
import { type MapState, panelOf } from "./state";

interface Paths {
  fills: Path2D[];
  edges: Path2D;
}

export class Painter {
  // The paths of a layer at one detail, for the panel that they were built for.
  private readonly paths = new Map<string, { panel: number; paths: Paths }>();
  private readonly pictures = new Map<number, HTMLCanvasElement>();
  private readonly heats = new Map<number, HeatPainter>();
  private veilCanvas: HTMLCanvasElement | null = null;
  // The last picture and where the reader looked then, for what is too slow to be drawn while the
  // map moves.
  private still: { canvas: HTMLCanvasElement; x: number; y: number; scale: number } | null = null;
  private readonly widths = new Map<string, number>();
  private readonly ground: CanvasRenderingContext2D;
  private readonly over: CanvasRenderingContext2D;

  constructor(
    private readonly scene: Scene,
    private readonly camera: Camera,
    private readonly state: MapState,
    base: HTMLCanvasElement,
    overlay: HTMLCanvasElement,
  ) {
    this.ground = canvasContext(base);
    this.over = canvasContext(overlay);
  }

  resize(): void {
    const dense = window.devicePixelRatio || 1;
    this.still = null;
    this.heats.forEach((h) => h.forget());
    for (const { canvas } of [this.ground, this.over]) {
      canvas.width = Math.round(this.camera.width * dense);
      canvas.height = Math.round(this.camera.height * dense);
    }
  }

  // Colours and paths are built anew, as after a change between light and dark.
  forget(): void {
    this.paths.clear();
    this.pictures.clear();
    this.heats.forEach((h) => h.forget());
  }

  // Paths for near views, made while nothing else is to be done, so that the first move does not
  // wait for them.
  prepare(): void {
    this.scene.layers.forEach(
      (layer, i) =>
        (layer.kind === "areas" || layer.kind === "lines") &&
        !this.state.hidden.has(i) &&
        layer.index &&
        this.build(layer, i, NEAR),
    );
  }

  // Keeps the picture as it is, to be moved about.
  keep(): void {
    const { canvas } = this.ground;
    const copy = this.still?.canvas ?? document.createElement("canvas");
    if (copy.width !== canvas.width || copy.height !== canvas.height)
      [copy.width, copy.height] = [canvas.width, canvas.height];
    const c = canvasContext(copy);
    c.clearRect(0, 0, copy.width, copy.height);
    c.drawImage(canvas, 0, 0);
    this.still = { canvas: copy, x: this.camera.x, y: this.camera.y, scale: this.camera.scale };
  }

  // The kept picture where it now belongs; false when there is none.
  shift(): boolean {
    if (!this.still) return false;
    const { canvas, x, y, scale } = this.still;
    const dense = window.devicePixelRatio || 1;
    const times = this.camera.scale / scale;
    const [px, py] = this.camera.toScreen(x, y);
    this.clear(this.ground);
    this.ground.drawImage(
      canvas,
      px * dense - (times * canvas.width) / 2,
      py * dense - (times * canvas.height) / 2,
      times * canvas.width,
      times * canvas.height,
    );
    return true;
  }

  draw(): void {
    const c = this.ground;
    this.clear(c);
    this.insets(c);
    for (const i of this.state.order) {
      if (!this.state.shownAt(i, this.camera.zoom)) continue;
      const layer = entry(this.scene.layers, i);
      const veiled = entry(this.state.opacity, i) < 1 ? this.veil() : null;
      const to = veiled ?? c;
      if (layer.kind === "areas") this.areas(to, layer, i);
      else if (layer.kind === "lines") this.lines(to, layer, i);
      else {
        this.flat(to);
        if (layer.kind === "symbols" && layer.plan.group)
          drawGroups(
            to,
            layer.plan,
            this.scene.groups(i, this.camera.home, this.camera.zoom, this.state),
            this.camera,
            this.state,
            i,
          );
        else if (layer.kind === "symbols") drawSymbols(to, layer.plan, this.camera, this.state, i);
        if (layer.kind === "heat") this.heat(i, layer.plan).draw(to, this.camera);
        if (layer.kind === "density")
          drawDensity(to, layer.plan, this.picture(i, layer.plan), this.camera);
        if (layer.kind === "labels")
          drawLabels(to, layer.plan, {
            camera: this.camera,
            state: this.state,
            widths: this.widths,
            discs: this.discs(),
            grown: this.grown(),
          });
      }
      if (veiled) {
        c.setTransform(1, 0, 0, 1, 0, 0);
        c.globalAlpha = entry(this.state.opacity, i);
        c.drawImage(veiled.canvas, 0, 0);
        c.globalAlpha = 1;
      }
    }
  }

  // The area, line or symbol under the pointer, outlined on a canvas of its own.
  mark(hit: Hit | null): void {
    this.clear(this.over);
    if (!hit) return;
    const layer = entry(this.scene.layers, hit.layer);
    const c = this.over;
    let path: Path2D;
    let unit = 1;
    if (hit.group) {
      path = new Path2D();
      path.arc(
        ...this.camera.toScreen(hit.group.x, hit.group.y),
        groupRadius(hit.group.items.length),
        0,
        2 * Math.PI,
      );
      this.flat(c);
    } else if (layer.kind === "symbols") {
      const { x: xs, y: ys } = layer.plan;
      const [x, y] = this.camera.toScreen(entry(xs, hit.item), entry(ys, hit.item));
      path = new Path2D();
      if (layer.plan.second)
        path.arc(x, y, reach(layer.plan, hit.item, this.camera), 0, 2 * Math.PI);
      else symbolPath(path, layer.plan, hit.item, [x, y], unitOf(layer.plan, this.camera));
      this.flat(c);
    } else if (layer.kind === "areas" || layer.kind === "lines") {
      path = tracePath([entry(layer.features, hit.item)]);
      unit = 1 / this.camera.scale;
      this.mapped(c);
    } else return;
    c.lineJoin = "round";
    for (const [colour, width] of [
      [this.scene.payload.inks.rim, 4.5],
      [this.scene.payload.inks.text, 2],
    ] as const) {
      c.strokeStyle = colour;
      c.lineWidth = width * unit;
      c.stroke(path);
    }
  }

  // A frame around each inset, its label above.
  private insets(c: CanvasRenderingContext2D): void {
    this.flat(c);
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

  private build(
    layer: Extract<SceneLayer, { kind: "areas" | "lines" }>,
    i: number,
    zoom = this.camera.zoom,
  ): Paths {
    const { name, features, arcs } = detailAt(layer, zoom);
    const panel = layer.kind === "areas" && layer.plan.panels ? this.state.panel : 0;
    const known = this.paths.get(`${i} ${name}`);
    if (known?.panel === panel) return known.paths;
    const edges = known?.paths.edges ?? traceArcs(arcs());
    const fills: Path2D[] = [];
    if (layer.kind === "areas") {
      const now = panelOf(layer.plan, this.state.panel);
      const groups: Feature[][] = Array.from(
        { length: 1 + (now.colours ?? layer.plan.colours).length },
        () => [],
      );
      features.forEach((f, k) => entry(groups, entry(now.class, k)).push(f));
      for (const group of groups) fills.push(tracePath(group));
    }
    const paths = { fills, edges };
    this.paths.set(`${i} ${name}`, { panel, paths });
    return paths;
  }

  private areas(
    c: CanvasRenderingContext2D,
    layer: Extract<SceneLayer, { kind: "areas" }>,
    i: number,
  ): void {
    const paths = this.build(layer, i);
    const now = panelOf(layer.plan, this.state.panel);
    this.mapped(c);
    c.lineJoin = "round";
    const border = borderWidth(layer.plan, this.camera.scale);
    // Without borders each area is drawn to its very edge, so that no gaps show.
    const bare = border === 0;
    c.lineWidth = 0.5 / this.camera.scale;
    [now.no_data.colour, ...(now.colours ?? layer.plan.colours)].forEach((colour, key) => {
      c.globalAlpha = this.state.strength(i, key);
      if (c.globalAlpha === 0) return;
      c.fillStyle = c.strokeStyle = colour;
      c.fill(entry(paths.fills, key), "evenodd");
      if (bare) c.stroke(entry(paths.fills, key));
    });
    c.globalAlpha = 1;
    if (border > 0) {
      c.strokeStyle = layer.plan.outline;
      c.lineWidth = border / this.camera.scale;
      c.stroke(paths.edges);
    }
    const hatch = now.hatch ?? layer.plan.hatch;
    if (hatch && paths.fills[hatch.class] && this.state.strength(i, hatch.class) === 1)
      this.hatch(c, entry(paths.fills, hatch.class), hatch.colour);
  }

  private lines(
    c: CanvasRenderingContext2D,
    layer: Extract<SceneLayer, { kind: "lines" }>,
    i: number,
  ): void {
    const plan = layer.plan;
    if (plan.width.length > 1 || plan.key || plan.arrow) {
      this.flat(c);
      return drawEachLine(
        c,
        plan,
        detailAt(layer, this.camera.zoom).features,
        this.camera,
        this.state,
        i,
      );
    }
    const { edges } = this.build(layer, i);
    this.mapped(c);
    c.lineJoin = "round";
    const width = lineWidth(plan, 0, this.camera.zoom) / this.camera.scale;
    if (!(width > 0)) return;
    if (plan.casing) {
      c.strokeStyle = plan.casing;
      c.lineWidth = width + CASING / this.camera.scale;
      c.stroke(edges);
    }
    c.strokeStyle = plan.colour;
    c.lineWidth = width;
    c.setLineDash(dashes(plan, width, this.camera.zoom));
    c.stroke(edges);
    c.setLineDash([]);
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
  private veil(): CanvasRenderingContext2D {
    const canvas = (this.veilCanvas ??= document.createElement("canvas"));
    const { width, height } = this.ground.canvas;
    if (canvas.width !== width || canvas.height !== height)
      [canvas.width, canvas.height] = [width, height];
    const c = canvasContext(canvas);
    this.clear(c);
    return c;
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
