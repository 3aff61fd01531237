// Sections of a layer of areas: shapes within the square that is theirs, pictures in the colours of
// their classes. Squares end on whole pixels, so that nothing shows between them.
import type { Camera } from "./camera";
import { areApart } from "./contrast";
import { tracePath } from "./draw-paths";
import { Shapes } from "./draw-shapes";
import { canvasContext } from "./elements";
import { entry } from "./entry";
import type { AreaLayer } from "./plan";
import type { SectionDrawing } from "./section-layer";
import { liesOnPaper } from "./seams";
import { areasOf, type Section, type SectionStore } from "./sections";
import { type MapState, panelOf } from "./state";
import { flat, mapped, type Surface } from "./surface";
import type { Work } from "./work";

export class SectionPainter implements SectionDrawing {
  private shapes = new WeakMap<object, Shapes>();
  private pictures = new WeakMap<Section, { key: string; canvas: HTMLCanvasElement }>();

  constructor(
    private readonly store: SectionStore,
    private readonly camera: Camera,
    private readonly state: MapState,
    private readonly on: Surface,
  ) {}

  forget(): void {
    this.pictures = new WeakMap();
    this.shapes = new WeakMap();
  }

  *draw(c: CanvasRenderingContext2D): Work<void> {
    for (const section of this.store.view(this.camera, this.on.dense)) {
      c.save();
      try {
        this.clip(c, section);
        if (section.shapes) {
          const areas = areasOf(section.shapes.scene, this.store.layer);
          yield* this.shapesOf(section.shapes).areas(c, areas, this.store.layer);
        } else this.picture(c, section);
      } finally {
        c.restore();
      }
      yield;
    }
  }

  outline(c: CanvasRenderingContext2D, item: number, stroke: (path: Path2D) => void): void {
    for (const { section, feature } of this.store.holding(item)) {
      c.save();
      this.clip(c, section);
      mapped(c, this.on, this.camera);
      stroke(tracePath([feature], this.on.path()));
      c.restore();
    }
  }

  private shapesOf(shapes: NonNullable<Section["shapes"]>): Shapes {
    const known = this.shapes.get(shapes);
    if (known) return known;
    const made = new Shapes(shapes.scene, this.camera, this.state, this.on);
    this.shapes.set(shapes, made);
    return made;
  }

  // In CSS pixels, to whole pixels of the screen: left, upper edge, width, height.
  private spot({ box }: Section): [number, number, number, number] {
    const { dense } = this.on;
    const whole = (v: number) => Math.round(v * dense) / dense;
    const [x0, y1] = this.camera.toScreen(box[0], box[1]).map(whole);
    const [x1, y0] = this.camera.toScreen(box[2], box[3]).map(whole);
    const [left = 0, low = 0, right = 0, high = 0] = [x0, y1, x1, y0];
    return [left, high, right - left, low - high];
  }

  private clip(c: CanvasRenderingContext2D, section: Section): void {
    flat(c, this.on);
    const path = this.on.path();
    path.rect(...this.spot(section));
    c.clip(path);
  }

  private picture(c: CanvasRenderingContext2D, section: Section): void {
    const spot = this.spot(section);
    const { cells } = this.store.about;
    flat(c, this.on);
    c.imageSmoothingEnabled = spot[2] * this.on.dense < cells;
    c.drawImage(this.canvasOf(section), ...spot);
    c.imageSmoothingEnabled = true;
  }

  private canvasOf(section: Section): HTMLCanvasElement {
    const { state, store } = this;
    const layer = entry(state.payload.layers, store.layer) as AreaLayer;
    const now = panelOf(layer, state.panel);
    const colours = [now.no_data.colour, ...(now.colours ?? layer.colours)];
    const strength = colours.map((_, key) => state.strength(store.layer, key));
    const panel = layer.panels ? state.panel : 0;
    // Pale areas have a line against the paper, as in seams.ts.
    const { ground, soft } = state.payload.inks;
    const onPaper = liesOnPaper(state, store.layer, this.camera.zoom);
    const pale = colours.map(
      (colour, k) => onPaper && strength[k] === 1 && !areApart(colour, ground),
    );
    const key = [panel, soft, ...colours, ...strength, ...pale].join();
    const known = this.pictures.get(section);
    if (known?.key === key) return known.canvas;
    const canvas = known?.canvas ?? document.createElement("canvas");
    const cells = section.cells?.[panel] ?? new Uint8Array();
    const side = store.about.cells;
    const seen = pale.some(Boolean) ? withRims(cells, side, [false, ...pale]) : cells;
    paintCells(canvas, seen, side, ["", ...colours, soft], [0, ...strength, 1]);
    this.pictures.set(section, { key, canvas });
    return canvas;
  }
}

// Cells of which some are those of a line: pale ones beside one where nothing is. They have the
// number after that of the last class.
function withRims(cells: Uint8Array, side: number, pale: boolean[]): Uint8Array {
  const out = cells.slice();
  for (let i = 0; i < cells.length; i++) {
    if (!pale[cells[i] ?? 0]) continue;
    const x = i % side;
    const bare =
      (x > 0 && cells[i - 1] === 0) ||
      (x < side - 1 && cells[i + 1] === 0) ||
      cells[i - side] === 0 ||
      cells[i + side] === 0;
    if (bare) out[i] = pale.length;
  }
  return out;
}

// Cells as pixels of a canvas; of each number its colour and how strong it is.
export function paintCells(
  canvas: HTMLCanvasElement,
  cells: Uint8Array,
  side: number,
  colours: string[],
  strength: number[],
): void {
  canvas.width = canvas.height = side;
  const c = canvasContext(canvas);
  const image = c.createImageData(side, side);
  const pixels = new Uint32Array(image.data.buffer);
  const inks = colours.map((colour, k) => {
    const [r = 0, g = 0, b = 0] = [1, 3, 5].map((at) => parseInt(colour.slice(at, at + 2), 16));
    const bytes = new Uint8Array([r, g, b, Math.round(255 * (strength[k] ?? 0))]);
    return new Uint32Array(bytes.buffer)[0] ?? 0;
  });
  cells.forEach((cell, i) => (pixels[i] = inks[cell] ?? 0));
  c.putImageData(image, 0, 0);
}
