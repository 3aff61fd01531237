// When the map is drawn: once for each frame of the screen, at most. A map that takes longer is
// moved as a picture, and drawn in pieces when the reader rests.
import type { BackdropView } from "./backdrop";
import type { Camera } from "./camera";
import type { Painter } from "./draw";
import type { Legend } from "./legend";
import { type Work } from "./work";

const SLOW = 12; // milliseconds that a picture may take within a frame
const PIECE = 8; // milliseconds of drawing before the browser has its turn
const FRAME = 17; // milliseconds from one frame to the next
const REST = 140; // milliseconds without a move

export interface Drawn {
  painter: Painter;
  backdrops: BackdropView[];
  legend: Legend;
  camera: Camera;
  // The map is to be drawn: its view may be another.
  asked: (moving: boolean) => void;
  // What lies over the map: what is marked, tools.
  over: () => void;
  // The picture that the page came with, where it now belongs.
  moveStill: () => void;
  // What is seen is not yet what there is.
  busy: (is: boolean) => void;
}

export class Redraw {
  private frame = 0;
  private rest = 0;
  private cost = Infinity; // milliseconds that the last picture took
  private work: Work<void> | null = null;
  private spent = 0;
  private last = 0;
  private steps = 2; // of drawing within a frame
  private again = false;
  private begun = false;

  // `drawn` is called after each picture. Until `begin` is called the still picture is moved.
  constructor(
    private readonly parts: Drawn,
    private readonly drawn: () => void,
  ) {}

  begin(): void {
    this.begun = true;
    this.ask();
  }

  ask(moving = false): void {
    window.clearTimeout(this.rest);
    this.parts.asked(moving);
    this.parts.busy(true);
    if (!this.begun) return this.next(() => this.parts.moveStill());
    if (moving) this.drop();
    if (this.work) this.again = true;
    else this.next(() => this.turn(moving));
  }

  // After the map has another size, what was drawn is shown until it is drawn anew.
  resized(): void {
    if (!this.begun) return;
    this.drop();
    const { painter } = this.parts;
    if (this.cost > SLOW && painter.shift()) return this.ask();
    if (this.cost < Infinity) this.now();
    else this.ask();
  }

  // At once, where that takes a few frames at most.
  soon(): void {
    if (this.begun && this.cost < 4 * FRAME) this.now();
    else this.ask();
  }

  now(): void {
    const begin = performance.now();
    cancelAnimationFrame(this.frame);
    this.drop();
    this.parts.painter.draw();
    this.end(performance.now() - begin);
  }

  dispose(): void {
    window.clearTimeout(this.rest);
    cancelAnimationFrame(this.frame);
    this.drop();
  }

  // A picture that is not finished: what was set up for it is taken down.
  private drop(): void {
    this.work?.return();
    this.work = null;
  }

  private next(act: () => void): void {
    cancelAnimationFrame(this.frame);
    this.frame = requestAnimationFrame(act);
  }

  private turn(moving: boolean): void {
    if (this.cost <= SLOW) return this.now();
    const { painter, backdrops, over } = this.parts;
    if (moving && painter.shift()) {
      for (const view of backdrops) view.draw();
      over();
      this.rest = window.setTimeout(() => this.ask(), REST);
      return;
    }
    this.work = painter.redraw();
    this.spent = 0;
    this.last = performance.now() - 1.5 * FRAME;
    this.piece();
  }

  // Browsers paint what was drawn at the end of a frame: how long that took is known by when the
  // next one comes, and so many steps are done in it.
  private piece(): void {
    if (!this.work) return;
    const begin = performance.now();
    if (begin - this.last > 2 * FRAME) this.steps = Math.max(1, this.steps / 2);
    else if (begin - this.last < 1.3 * FRAME) this.steps *= 1.5;
    this.last = begin;
    for (let k = 0; k < this.steps && performance.now() - begin < PIECE; k++) {
      if (this.work.next().done) return this.end(this.spent + performance.now() - begin);
    }
    this.spent += performance.now() - begin;
    this.next(() => this.piece());
  }

  private end(cost: number): void {
    const { backdrops, camera, legend, over } = this.parts;
    this.work = null;
    this.cost = cost;
    for (const view of backdrops) view.draw();
    legend.zoomTo(camera.zoom);
    over();
    this.drawn();
    this.parts.busy(this.again);
    if (!this.again) return;
    this.again = false;
    this.ask();
  }
}
