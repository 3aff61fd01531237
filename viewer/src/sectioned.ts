// The script of pages whose areas come in sections: what comes is drawn, said of a pointer that
// rests, and chosen where a link or a search led to it.
import { paintCells, SectionPainter } from "./draw-sections";
import type { ReaderMap } from "./reader-map";
import { SectionNames } from "./section-names";
import type { Found, SectionDrawing, SectionLayer } from "./section-layer";
import { SectionStore } from "./sections";
import { chosenOf } from "./share";
import type { MapState } from "./state";
import type { Surface } from "./surface";
import type { Camera } from "./camera";
import type { Plan, Sections } from "./plan";
import { say } from "./words";

const ROOM = 0.6; // around what a search led to, as a share of its size

class Sectioned extends SectionStore implements SectionLayer {
  private awaited: string | number | null = null;
  private readonly names: SectionNames | null;

  constructor(
    private readonly map: ReaderMap,
    plan: Plan,
    about: Sections,
  ) {
    super(plan, about);
    this.names = about.names && new SectionNames(about, about.names);
    this.on(
      (seen) => {
        this.choose();
        if (seen) map.redraw.ask();
        else map.pointing.settled();
      },
      (lost) => map.tools.tell(lost ? say(plan.words, "sections_lost") : null),
    );
  }

  protected override get chosen(): number | null {
    const hit = this.map.pointing.chosen;
    return hit?.layer === this.layer ? hit.item : null;
  }

  painter(camera: Camera, state: MapState, on: Surface): SectionDrawing {
    return new SectionPainter(this, camera, state, on);
  }

  drawLand(c: CanvasRenderingContext2D, ink: string, opacity: number): void {
    const [x0 = 0, y0 = 0, x1 = 0, y1 = 0] = this.about.box;
    const canvas = document.createElement("canvas");
    const land = (this.top.cells?.[0] ?? new Uint8Array()).map((cell) => Math.min(cell, 1));
    paintCells(canvas, land, this.about.cells, ["", ink], [0, opacity]);
    c.save();
    // Pictures run downward.
    c.transform(1, 0, 0, -1, 0, y0 + y1);
    c.drawImage(canvas, x0, y0, x1 - x0, y1 - y0);
    c.restore();
  }

  expect(chosen: string | null): void {
    this.awaited = chosen;
  }

  search(text: string): Promise<Found[]> {
    return this.names?.find(text) ?? Promise.resolve([]);
  }

  goTo({ item, spot }: Found): void {
    const { camera, pointing, redraw } = this.map;
    if (!spot) return;
    const half = spot.size / 2;
    pointing.letGo();
    camera.fit([spot.x - half, spot.y - half, spot.x + half, spot.y + half], ROOM, Infinity);
    this.awaited = item;
    // What is here already need not be waited for.
    this.view(camera, window.devicePixelRatio || 1);
    this.choose();
    redraw.ask();
  }

  // What was waited for, when it has come.
  private choose(): void {
    const { awaited, layer, map } = this;
    if (awaited === null) return;
    const hit =
      typeof awaited === "number" ? { layer, item: awaited } : chosenOf(awaited, map.state);
    if (hit?.layer !== layer || !this.holding(hit.item).length) return;
    this.awaited = null;
    map.pointing.select(hit);
    map.pointing.sayAt(hit);
  }
}

declare global {
  interface Window {
    ochreSectioned?: (map: ReaderMap) => SectionLayer;
  }
}

window.ochreSectioned = (map) => {
  const { sections } = map.plan;
  if (!sections) throw new Error("The plan has no sections.");
  return new Sectioned(map, map.plan, sections);
};
