// Tools that a publisher may give: measuring, the reader's own position, an address of the view,
// full screen, print, the map as a picture. Where they would cover much of a small map they fold
// into one button.
import type { Camera } from "./camera";
import { button, canvasContext, element, svg } from "./elements";
import { Measure } from "./measure";
import type { Projection } from "./projection";
import type { Hit } from "./scene";
import { viewText, withView } from "./share";
import type { MapState } from "./state";
import { say } from "./words";

export interface Around {
  root: HTMLElement;
  stage: HTMLElement;
  camera: Camera;
  state: MapState;
  projection: () => Projection;
  moved: () => void;
  chosen: () => Hit | null;
  savePicture: (kind: "svg" | "png") => void;
}

const MOST = 0.1; // share of the map that tools may cover

export class Tools {
  private readonly note: HTMLElement;
  private readonly board: HTMLCanvasElement;
  private readonly measure: Measure;
  private here: [number, number] | null = null;

  private readonly list: HTMLElement;
  private readonly more: HTMLButtonElement;

  constructor(
    private readonly bar: HTMLElement,
    private readonly around: Around,
  ) {
    const { stage } = around;
    this.note = element("p", "ochre-note", null, stage);
    this.note.setAttribute("role", "status");
    this.note.hidden = true;
    this.board = element("canvas", "ochre-canvas ochre-board", null, stage);
    this.measure = new Measure(this.plan, around.camera, around.projection);
    const words = say(this.plan.words, "more");
    this.list = element("div", "ochre-tool-list", null, bar);
    this.addButtons(this.list);
    this.more = button(bar, words, "\u22ef", () => this.unfold(), "ochre-more");
    this.unfold(false);
  }

  // Folds where the buttons would cover too much.
  resize(): void {
    const { clientWidth, clientHeight } = this.around.stage;
    this.bar.classList.remove("ochre-folded");
    const { offsetWidth, offsetHeight } = this.bar;
    const wide = offsetWidth * offsetHeight > MOST * clientWidth * clientHeight;
    this.bar.classList.toggle("ochre-folded", wide && this.list.childElementCount > 0);
    this.unfold(false);
  }

  private unfold(open = this.more.getAttribute("aria-expanded") !== "true"): void {
    this.more.setAttribute("aria-expanded", String(open));
    this.bar.classList.toggle("ochre-unfolded", open);
  }

  // While measuring, a press on the map is the tool's.
  press(x: number, y: number): boolean {
    if (!this.measure.on) return false;
    this.measure.add(x, y);
    this.tell(this.measure.said());
    this.draw();
    return true;
  }

  end(): void {
    this.measure.stop();
    this.around.stage.classList.remove("ochre-measuring");
    this.tell(null);
    this.draw();
  }

  // A dot at a place, or at none.
  point(at: [number, number] | null): void {
    this.here = at;
    this.draw();
  }

  tell(text: string | null): void {
    this.note.hidden = !text;
    this.note.textContent = text;
  }

  draw(): void {
    const { camera } = this.around;
    const dense = window.devicePixelRatio || 1;
    const path = this.measure.places.map(([x, y]) => camera.toScreen(x, y));
    const dots = this.here ? [...path, camera.toScreen(...this.here)] : path;
    this.board.width = dots.length ? Math.round(camera.width * dense) : 1;
    this.board.height = dots.length ? Math.round(camera.height * dense) : 1;
    const c = canvasContext(this.board);
    c.setTransform(dense, 0, 0, dense, 0, 0);
    const { rim, text } = this.plan.inks;
    stroke(c, path, dots, rim, 5);
    stroke(c, path, dots, text, 2);
  }

  private get plan() {
    return this.around.state.payload;
  }

  private addButtons(bar: HTMLElement): void {
    const { words, page } = this.plan;
    const acts: Record<string, [string, () => void]> = {
      measure: ["\u2194", () => this.toggleMeasure()],
      position: ["\u25ce", () => this.locate()],
      share: ["\u2197", () => this.share()],
      fullscreen: ["\u2922", () => this.fillScreen()],
      print: ["", () => window.print()],
      picture: ["\u2b07", () => this.askPicture()],
    };
    for (const tool of page.tools) {
      const known = acts[tool];
      if (known)
        button(
          bar,
          say(words, tool === "picture" ? "picture_tool" : tool),
          known[0],
          known[1],
          `ochre-tool-${tool}`,
        );
    }
    // No font is sure to have a sign for printing.
    const printer = bar.querySelector(".ochre-tool-print");
    if (printer) drawPrinter(printer);
  }

  private toggleMeasure(): void {
    if (this.measure.on) return this.end();
    this.measure.start();
    this.around.stage.classList.add("ochre-measuring");
    this.tell(this.measure.said());
  }

  private locate(): void {
    const { camera, projection, moved } = this.around;
    const off = () => this.tell(say(this.plan.words, "position_off"));
    navigator.geolocation?.getCurrentPosition(({ coords }) => {
      const here = projection().forward(coords.longitude, coords.latitude);
      const [x0, y0, x1, y1] = camera.frame;
      this.here = here;
      if (here[0] < x0 || here[0] > x1 || here[1] < y0 || here[1] > y1) off();
      else camera.lookAt(...here, Math.max(4, camera.zoom));
      moved();
    }, off);
  }

  private share(): void {
    const { words } = this.plan;
    const { camera, state, chosen, root } = this.around;
    const text = viewText(camera, state, chosen(), root.id);
    const view = withView(location.hash, text, root.id);
    const address = `${location.href.split("#")[0]}${view}`;
    try {
      history.replaceState(null, "", view);
    } catch {
      // A page within another may not; the address is shown all the same.
    }
    const shown = () => this.tell(`${say(words, "share_this")} ${address}`);
    if (!navigator.clipboard) return shown();
    navigator.clipboard.writeText(address).then(() => this.tell(say(words, "shared")), shown);
  }

  // As pixels or as vectors.
  private askPicture(): void {
    const { words } = this.plan;
    this.tell(`${say(words, "picture_tool")}: `);
    for (const kind of ["png", "svg"] as const) {
      const act = () => {
        this.tell(null);
        this.around.savePicture(kind);
      };
      button(this.note, kind.toUpperCase(), kind.toUpperCase(), act, "ochre-kind");
    }
  }

  private fillScreen(): void {
    if (document.fullscreenElement) void document.exitFullscreen();
    else void this.around.root.requestFullscreen?.();
  }
}

// A line with its corners as dots.
function stroke(
  c: CanvasRenderingContext2D,
  path: [number, number][],
  dots: [number, number][],
  colour: string,
  width: number,
): void {
  c.strokeStyle = c.fillStyle = colour;
  c.lineWidth = width;
  c.beginPath();
  path.forEach(([x, y], i) => (i ? c.lineTo(x, y) : c.moveTo(x, y)));
  c.stroke();
  for (const [x, y] of dots) {
    c.beginPath();
    c.arc(x, y, 2 + width, 0, 2 * Math.PI);
    c.fill();
  }
}

function drawPrinter(parent: Element): void {
  const size = { width: 17, height: 17, viewBox: "0 0 17 17", "aria-hidden": "true" };
  const d = "M4 6V1h9v5M4 12H1V6h15v6h-3M4 9.5h9V16H4z";
  const line = { d, fill: "none", stroke: "currentColor", "stroke-width": 1.4 };
  svg("path", line, svg("svg", size, parent));
}
