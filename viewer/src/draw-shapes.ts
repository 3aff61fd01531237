// Areas and lines: paths of features, built once in map units and drawn under the camera's
// transform, so that only the widths of lines follow the zoom. Zoomed out, coarser arcs are drawn.
// Paths are short, so that each is drawn in little time.
import type { Camera } from "./camera";
import { borderWidth, traceArcs, tracePath } from "./draw-paths";
import { CASING, dashes, drawEachLine, lineWidth } from "./draw-symbols";
import { entry } from "./entry";
import type { Feature } from "./geometry";
import { type Detail, detailAt, NEAR, type Scene, type SceneLayer } from "./scene";
import { type MapState, panelOf } from "./state";
import { flat, mapped, type Surface } from "./surface";
import { liesOnPaper, seamPath, sidesOf } from "./seams";
import { Made, type Work } from "./work";

export type ShapeLayer = Extract<SceneLayer, { kind: "areas" | "lines" }>;
type Areas = Extract<SceneLayer, { kind: "areas" }>;
type Lines = Extract<SceneLayer, { kind: "lines" }>;

// Corners that a path has at most, but for those of its last feature.
const PATH = 2000;

// Borders of readers who ask for more contrast, in CSS px.
const STRONG = 0.8;
const wantsContrast = (): boolean => window.matchMedia("(prefers-contrast: more)").matches;

// Lines where colours alone do not tell two sides apart, and rings too small for one, in CSS px.
const SEAM = 0.7;
const SPOT = 5;

interface Fills {
  panel: number;
  // The paths of each class; that of no class is the first.
  fills: Path2D[][];
}

export class Shapes {
  private readonly fills = new Map<string, Fills>();
  private readonly edges = new Map<string, Made<Path2D[]>>();
  private readonly sides = new Map<number, Made<Int32Array>>();
  private readonly seams = new Map<string, { key: string; path: Path2D }>();

  constructor(
    private readonly scene: Scene,
    private readonly camera: Camera,
    private readonly state: MapState,
    private readonly on: Surface,
  ) {}

  forget(): void {
    this.fills.clear();
    this.edges.clear();
    this.seams.clear();
  }

  // Paths for a view from so near, made before they are drawn.
  *prepare(layer: ShapeLayer, i: number, zoom: number): Work<void> {
    const detail = detailAt(zoom);
    if (layer.kind === "areas") yield* this.fillsOf(layer, i, detail);
    yield* this.edgesOf(layer, i, detail).steps();
  }

  *areas(c: CanvasRenderingContext2D, layer: Areas, i: number): Work<void> {
    const detail = detailAt(this.camera.zoom);
    const { fills } = yield* this.fillsOf(layer, i, detail);
    const now = panelOf(layer.plan, this.state.panel);
    const strong = wantsContrast();
    const border = Math.max(borderWidth(layer.plan, this.camera.scale), strong ? STRONG : 0);
    for (const [key, colour] of [
      now.no_data.colour,
      ...(now.colours ?? layer.plan.colours),
    ].entries()) {
      const strength = this.state.strength(i, key);
      if (strength === 0) continue;
      for (const path of entry(fills, key)) {
        this.mapped(c);
        c.globalAlpha = strength;
        c.fillStyle = c.strokeStyle = colour;
        c.fill(path, "evenodd");
        // Without borders each area is drawn to its very edge, so that no gaps show.
        c.lineWidth = 0.5 / this.camera.scale;
        if (border === 0) c.stroke(path);
        c.globalAlpha = 1;
        yield;
      }
    }
    if (border > 0) yield* this.borders(c, layer, i, border);
    yield* this.drawSeams(c, layer, i);
    const hatch = now.hatch ?? layer.plan.hatch;
    if (hatch && fills[hatch.class] && this.state.strength(i, hatch.class) === 1)
      for (const path of entry(fills, hatch.class)) {
        this.hatch(c, path, hatch.colour);
        yield;
      }
  }

  *lines(c: CanvasRenderingContext2D, layer: Lines, i: number): Work<void> {
    const { plan } = layer;
    const detail = detailAt(this.camera.zoom);
    if (plan.width.length > 1 || plan.key || plan.arrow) {
      const features = yield* (detail === "coarse" ? layer.coarse : layer.fine).steps();
      flat(c, this.on);
      return drawEachLine(c, plan, features, this.camera, this.state, i);
    }
    const width = lineWidth(plan, 0, this.camera.zoom) / this.camera.scale;
    if (!(width > 0)) return;
    const edges = yield* this.edgesOf(layer, i, detail).steps();
    const strokes: [string, number, number[]][] = [];
    if (plan.casing) strokes.push([plan.casing, width + CASING / this.camera.scale, []]);
    strokes.push([plan.colour, width, dashes(plan, width, this.camera.zoom)]);
    for (const [colour, wide, dash] of strokes)
      for (const path of edges) {
        this.mapped(c);
        c.strokeStyle = colour;
        c.lineWidth = wide;
        c.setLineDash(dash);
        c.stroke(path);
        c.setLineDash([]);
        yield;
      }
  }

  private *borders(
    c: CanvasRenderingContext2D,
    layer: Areas,
    i: number,
    width: number,
  ): Work<void> {
    for (const path of yield* this.edgesOf(layer, i, detailAt(this.camera.zoom)).steps()) {
      this.mapped(c);
      c.strokeStyle = wantsContrast() ? this.scene.payload.inks.text : layer.plan.outline;
      c.lineWidth = width / this.camera.scale;
      c.stroke(path);
      yield;
    }
  }

  private *drawSeams(c: CanvasRenderingContext2D, layer: Areas, i: number): Work<void> {
    const path = yield* this.seamsOf(layer, i);
    this.mapped(c);
    c.strokeStyle = this.scene.payload.inks.soft;
    c.lineWidth = SEAM / this.camera.scale;
    c.stroke(path);
    yield;
  }

  private *seamsOf(layer: Areas, i: number): Work<Path2D> {
    const { camera, scene, state } = this;
    const detail = detailAt(camera.zoom);
    const { inks } = scene.payload;
    const onPaper = liesOnPaper(state, i, camera.zoom);
    const now = panelOf(layer.plan, state.panel);
    const colours = [now.no_data.colour, ...(now.colours ?? layer.plan.colours)];
    const key = [
      state.panel,
      state.offText(i),
      onPaper,
      inks.ground,
      camera.home,
      ...colours,
    ].join();
    const known = this.seams.get(`${i} ${detail}`);
    if (known?.key === key) return known.path;
    const arcs = scene.allArcs(detail);
    const made = this.sides.get(i) ?? new Made(() => sidesOf(layer.net.get(), arcs.length));
    this.sides.set(i, made);
    const look = {
      colours,
      paper: inks.ground,
      class: now.class,
      onPaper,
      isOff: (k: number) => state.isOff(i, k),
      least: SPOT / (camera.home * (detail === "coarse" ? 1 : NEAR)),
    };
    const path = yield* seamPath(yield* made.steps(), arcs, look, this.on.path());
    this.seams.set(`${i} ${detail}`, { key, path });
    return path;
  }

  private *fillsOf(layer: Areas, i: number, detail: Detail): Work<Fills> {
    const panel = layer.plan.panels ? this.state.panel : 0;
    const known = this.fills.get(`${i} ${detail}`);
    if (known?.panel === panel) return known;
    const features = yield* (detail === "coarse" ? layer.coarse : layer.fine).steps();
    const now = panelOf(layer.plan, this.state.panel);
    const classes = 1 + (now.colours ?? layer.plan.colours).length;
    const fills: Path2D[][] = Array.from({ length: classes }, () => []);
    const open: { features: Feature[]; corners: number }[] = fills.map(() => ({
      features: [],
      corners: 0,
    }));
    const close = (key: number): void => {
      const { features } = entry(open, key);
      if (features.length) entry(fills, key).push(tracePath(features, this.on.path()));
      open[key] = { features: [], corners: 0 };
    };
    for (const [k, feature] of features.entries()) {
      const key = entry(now.class, k);
      const group = entry(open, key);
      group.features.push(feature);
      for (const ring of feature.rings) group.corners += ring.length / 2;
      if (group.corners < PATH) continue;
      close(key);
      yield;
    }
    for (const key of fills.keys()) {
      close(key);
      yield;
    }
    const made = { panel, fills };
    this.fills.set(`${i} ${detail}`, made);
    return made;
  }

  private edgesOf(layer: ShapeLayer, i: number, detail: Detail): Made<Path2D[]> {
    const { scene, on } = this;
    const known = this.edges.get(`${i} ${detail}`);
    if (known) return known;
    const made = new Made(function* (): Work<Path2D[]> {
      const arcs = scene.arcsOf(yield* layer.net.steps(), detail);
      const paths: Path2D[] = [];
      let [from, corners] = [0, 0];
      for (const [k, arc] of arcs.entries()) {
        corners += arc.length / 2;
        if (corners < PATH && k < arcs.length - 1) continue;
        paths.push(traceArcs(arcs.slice(from, k + 1), on.path()));
        [from, corners] = [k + 1, 0];
        yield;
      }
      return paths;
    });
    this.edges.set(`${i} ${detail}`, made);
    return made;
  }

  // Rising diagonals on the screen, seven pixels apart, inside of a path.
  private hatch(c: CanvasRenderingContext2D, path: Path2D, colour: string): void {
    const { width, height } = this.camera;
    this.mapped(c);
    c.save();
    c.clip(path, "evenodd");
    flat(c, this.on);
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

  private mapped(c: CanvasRenderingContext2D): void {
    mapped(c, this.on, this.camera);
    c.lineJoin = "round";
  }
}
