// A layer whose areas come in sections, as the rest of the viewer knows it: what does the work is a
// script of its own (sectioned.ts), which only pages load that need it.
import type { Camera } from "./camera";
import type { Box } from "./geometry";
import type { MapState } from "./state";
import type { Surface } from "./surface";
import type { Work } from "./work";

// What a search finds.
export interface Found {
  layer: number;
  item: number;
  name: string;
  code: string | null;
  region: string | null;
  // Where it lies, of an area that is not loaded.
  spot?: { x: number; y: number; size: number };
}

export interface SectionLayer {
  readonly layer: number;
  // The item at a place; -1 for none, or for one that is not here yet and is asked for.
  find(x: number, y: number, state: MapState): number;
  // Is anything there, as far as the picture of the whole tells?
  covers(x: number, y: number): boolean;
  // Items whose shapes are drawn and lie in a view.
  items(camera: Camera): number[];
  // Where an item lies, as far as it is loaded; null where nothing of it is.
  box(item: number): Box | null;
  painter(camera: Camera, state: MapState, on: Surface): SectionDrawing;
  // The picture of the whole in one ink.
  drawLand(c: CanvasRenderingContext2D, ink: string, opacity: number): void;
  // What a link says is chosen, as share.ts writes it: it is, as soon as it is here.
  expect(chosen: string | null): void;
  // Areas whose name or code begins with a text.
  search(text: string): Promise<Found[]>;
  goTo(found: Found): void;
}

export interface SectionDrawing {
  forget(): void;
  draw(c: CanvasRenderingContext2D): Work<void>;
  // The outline of an item, drawn by `stroke`.
  outline(c: CanvasRenderingContext2D, item: number, stroke: (path: Path2D) => void): void;
}
