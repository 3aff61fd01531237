// A scale bar that follows the view: a round length, true in the middle of it. Where the scale
// differs much within the view there is none, since it would be wrong at the edges.
import type { Camera } from "./camera";
import { element } from "./elements";
import { distance } from "./geodesy";
import type { Plan } from "./plan";
import type { Projection } from "./projection";
import { say, writeNumber } from "./words";

const WIDEST = 130; // CSS px
const PROBE = 60; // CSS px that a length is measured over
const SAME = 1.3; // from the least to the greatest scale within the view

export class ScaleBar {
  private readonly box: HTMLElement;
  private readonly words: HTMLElement;

  constructor(
    stage: HTMLElement,
    private readonly plan: Plan,
    private readonly camera: Camera,
    private readonly projection: () => Projection,
  ) {
    this.box = element("p", "ochre-scale", null, stage);
    this.words = element("span", "", null, this.box);
  }

  draw(): void {
    const { width, height } = this.camera;
    const middle = this.metres(width / 2, height / 2);
    const edges = [0.1, 0.9].flatMap((x) =>
      [0.1, 0.9].map((y) => this.metres(x * width, y * height)),
    );
    const known = edges.filter((m) => Number.isFinite(m) && m > 0);
    const even = known.every((m) => m < SAME * middle && middle < SAME * m);
    this.box.hidden = !(middle > 0) || !even || this.inInset();
    if (this.box.hidden) return;
    const most = middle * Math.min(WIDEST, 0.3 * width);
    const unit = 10 ** Math.floor(Math.log10(most));
    const long = ([5, 2, 1].find((k) => k * unit <= most) ?? 1) * unit;
    const far = long >= 1000;
    const number = writeNumber(far ? long / 1000 : long, long < 1 ? 1 : 0, this.plan.marks);
    this.words.textContent = say(this.plan.words, far ? "kilometres" : "metres", number);
    this.box.style.width = `${(long / middle).toFixed(1)}px`;
  }

  // Metres of a pixel across.
  private metres(px: number, py: number): number {
    const { inverse } = this.projection();
    const ends = [px - PROBE / 2, px + PROBE / 2].map((x) => inverse(...this.camera.toMap(x, py)));
    const [a, b] = ends;
    if (!a || !b) return NaN;
    return distance(a, b) / PROBE;
  }

  // Insets have scales of their own.
  private inInset(): boolean {
    const { x, y } = this.camera;
    return this.plan.insets.some(
      ({ frame: [x0 = 0, y0 = 0, x1 = 0, y1 = 0] }) => x >= x0 && x <= x1 && y >= y0 && y <= y1,
    );
  }
}
