// When the map is drawn: once for each frame of the screen, at most. A map too large to be drawn at
// each step is moved as a picture, and drawn when the reader rests.
import type { BackdropView } from "./backdrop";
import type { Camera } from "./camera";
import type { Painter } from "./draw";
import type { Legend } from "./legend";

const SLOW = 90; // milliseconds
const REST = 140; // milliseconds without a move

export interface Drawn {
  painter: Painter;
  backdrops: BackdropView[];
  legend: Legend;
  camera: Camera;
  // What lies over the map: what is marked, tools.
  over: () => void;
}

export class Redraw {
  private frame = 0;
  private rest = 0;
  private costs: [number, number] = [0, 0]; // milliseconds that the last two pictures took
  // The first picture builds what later ones find.
  private first = true;

  constructor(private readonly drawn: Drawn) {}

  ask(moving = false): void {
    window.clearTimeout(this.rest);
    if (this.frame) return;
    this.frame = requestAnimationFrame(() => {
      this.frame = 0;
      if (moving && this.isSlow && this.drawn.painter.shift()) {
        for (const view of this.drawn.backdrops) view.draw();
        this.rest = window.setTimeout(() => this.ask(), REST);
        this.drawn.over();
      } else this.now();
    });
  }

  now(): void {
    const { painter, backdrops, legend, camera, over } = this.drawn;
    const begin = performance.now();
    for (const view of backdrops) view.draw();
    painter.draw();
    if (!this.first) this.costs = [this.costs[1], performance.now() - begin];
    if (this.isSlow) painter.keep();
    legend.zoomTo(camera.zoom);
    over();
  }

  // Paths for near views, made while nothing else is to be done.
  prepare(): void {
    if (!this.first) return;
    this.first = false;
    (window.requestIdleCallback ?? window.setTimeout)(() => this.drawn.painter.prepare());
  }

  dispose(): void {
    window.clearTimeout(this.rest);
    cancelAnimationFrame(this.frame);
  }

  private get isSlow(): boolean {
    return Math.min(...this.costs) > SLOW;
  }
}
