// A small map of the whole with a frame around what is seen, while the reader is near. A press on
// it moves there.
import type { Camera } from "./camera";
import { tracePath } from "./draw-paths";
import { canvasContext, element } from "./elements";
import type { Plan } from "./plan";
import type { Scene } from "./scene";

const SIDE = 110; // CSS px of its longer side
const NEAR = 1.3; // zoom from which on it is there

export class Locator {
  private readonly box: HTMLElement;
  private readonly canvas: HTMLCanvasElement;
  private readonly seen: HTMLElement;
  private drawn = "";

  constructor(
    stage: HTMLElement,
    private readonly plan: Plan,
    private readonly scene: Scene,
    private readonly camera: Camera,
    private readonly moved: () => void,
  ) {
    this.box = element("div", "ochre-locator", null, stage);
    // What it shows the address and the map's keys say as well.
    this.box.setAttribute("aria-hidden", "true");
    this.box.hidden = true;
    this.canvas = element("canvas", "", null, this.box);
    this.seen = element("div", "ochre-locator-view", null, this.box);
    this.box.addEventListener("pointerdown", (e) => {
      e.stopPropagation();
      this.goTo(e);
    });
  }

  draw(): void {
    const { camera } = this;
    this.box.hidden = camera.zoom < NEAR || camera.width < 3 * SIDE;
    if (this.box.hidden) return;
    this.drawMap();
    const [x0, y0, x1, y1] = camera.frame;
    const share = (v: number, low: number, high: number) =>
      `${(100 * Math.min(1, Math.max(0, (v - low) / (high - low)))).toFixed(2)}%`;
    const [left, top] = camera.toMap(0, 0);
    const [right, bottom] = camera.toMap(camera.width, camera.height);
    const { style } = this.seen;
    style.left = share(left, x0, x1);
    style.right = share(x1 + x0 - right, x0, x1);
    style.top = share(y1 + y0 - top, y0, y1);
    style.bottom = share(bottom, y0, y1);
  }

  // Land, in one colour.
  private drawMap(): void {
    const [x0, y0, x1, y1] = this.camera.frame;
    const scale = SIDE / Math.max(x1 - x0, y1 - y0);
    const { inks } = this.plan;
    const key = `${inks.soft} ${inks.ground} ${window.devicePixelRatio}`;
    if (key === this.drawn) return;
    this.drawn = key;
    const dense = window.devicePixelRatio || 1;
    const [width, height] = [(x1 - x0) * scale, (y1 - y0) * scale];
    this.canvas.width = Math.round(width * dense);
    this.canvas.height = Math.round(height * dense);
    this.box.style.width = `${width}px`;
    this.box.style.height = `${height}px`;
    const c = canvasContext(this.canvas);
    const s = scale * dense;
    c.setTransform(s, 0, 0, -s, -x0 * s, y1 * s);
    for (const [i, layer] of this.scene.layers.entries()) {
      if (this.scene.sections?.layer === i) this.scene.sections.drawLand(c, inks.soft, 0.55);
      if (layer.kind !== "areas" && layer.kind !== "lines") continue;
      const path = tracePath(layer.coarse.get());
      c.fillStyle = c.strokeStyle = inks.soft;
      c.globalAlpha = 0.55;
      c.lineWidth = 0.5 / scale;
      if (layer.kind === "areas") c.fill(path, "evenodd");
      else c.stroke(path);
    }
  }

  private goTo(e: PointerEvent): void {
    const { camera } = this;
    const box = this.box.getBoundingClientRect();
    const [x0, y0, x1, y1] = camera.frame;
    const x = x0 + ((e.clientX - box.left) / box.width) * (x1 - x0);
    const y = y1 - ((e.clientY - box.top) / box.height) * (y1 - y0);
    camera.lookAt(x, y, camera.zoom);
    this.moved();
  }
}
