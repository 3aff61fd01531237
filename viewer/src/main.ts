// Puts a map into an element, and ties together what is drawn, what is beside it and what the reader does.
import { BackdropView, backdropList } from "./backdrop";
import { Bars, cards } from "./beside";
import { Camera } from "./camera";
import { Painter } from "./draw";
import { button, element } from "./elements";
import { buildFrame, paint, type Frame } from "./frame";
import { addButtons, listen } from "./gestures";
import { opens } from "./groups";
import { LayerList } from "./layer-list";
import { Legend } from "./legend";
import { HoverLabel, PopupCard } from "./panels";
import { checkVersion, type Payload } from "./payload";
import type { Place } from "./places";
import { PeriodBar } from "./periods";
import { makeProjection, type Projection } from "./projection";
import { followGround } from "./recolour";
import { Scene, type Hit } from "./scene";
import { searchField } from "./search";
import { MapState } from "./state";
import { TableView } from "./table";
import { addTools, restoreView } from "./tools";
import { say } from "./words";

const SLOW = 90; // milliseconds

export interface MountedMap {
  resize(): void;
}

export function mount(root: HTMLElement, payload: Payload): MountedMap {
  root.replaceChildren();
  root.classList.add("ochre-map");
  try {
    checkVersion(payload);
  } catch (e) {
    element("p", "ochre-failure", (e as Error).message, root).setAttribute("role", "alert");
    return { resize: () => undefined };
  }
  const frame = buildFrame(root, payload);
  return new ReaderMap(root, payload, frame);
}

class ReaderMap implements MountedMap {
  private readonly state: MapState;
  private readonly scene: Scene;
  private readonly camera: Camera;
  private readonly painter: Painter;
  private readonly legend: Legend;
  private readonly label: HoverLabel;
  private readonly popup: PopupCard;
  private readonly tools: ReturnType<typeof addTools>;
  private readonly bars: Bars | null = null;
  private readonly layers: LayerList | null = null;
  private readonly backdrop: BackdropView | null = null;
  // The layer that search, table and bars speak of.
  private readonly main: number;
  private marked: Hit | null = null;
  private waiting = false;
  private costs: [number, number] = [0, 0]; // milliseconds that the last two pictures took
  private rest = 0;
  private size = "";
  private ready = false;
  private turn: Projection | null = null;

  constructor(private readonly root: HTMLElement, private readonly payload: Payload, private readonly frame: Frame) {
    const { stage, side } = frame;
    const { page, words } = payload;
    this.state = new MapState(payload);
    this.scene = new Scene(payload);
    this.camera = new Camera(payload.frame);
    this.painter = new Painter(this.scene, this.camera, this.state, frame.base, frame.overlay);
    this.main = payload.layers.findIndex((l) => l.kind === "areas" && l.names !== null);
    if (page.cards) cards(this.state, side);
    if (page.layers) this.layers = new LayerList(this.state, side);
    backdropList(this.state, side);
    if (payload.backdrops.length) this.backdrop = new BackdropView(stage, frame.middle, this.camera, this.state);
    this.legend = new Legend(this.state, element("div", "ochre-legend-parts", null, side));
    if (page.bars > 0 && this.main >= 0) this.bars = new Bars(this.state, this.main, side, { over: (item) => this.mark(item === null ? null : { layer: this.main, item }), choose: (item) => this.goTo({ layer: this.main, item }) });
    this.label = new HoverLabel(stage, this.state, page.hover === "panel");
    this.popup = new PopupCard(stage, this.state);
    if (payload.panels && payload.panels.length > 1) new PeriodBar(this.state, frame.middle);
    if (page.search || page.places) searchField(payload, frame.controls, (found) => this.goTo(found), (place) => this.goToPlace(place));
    const bar = element("div", "ochre-buttons", null, stage);
    this.tools = addTools(root, stage, bar, payload, this.camera, this.state, () => this.projection(), () => this.moved());
    if (page.table && this.main >= 0) {
      const table = new TableView(this.state, this.main, frame.middle, (item) => this.goTo({ layer: this.main, item }));
      button(frame.controls, say(words, "table"), say(words, "table"), () => table.toggle(), "ochre-open-table");
    }
    addButtons(stage, bar, this.camera, () => this.moved(), words);
    this.listen();
    this.state.onChange((what) => {
      if (what === "panel") {
        this.closeAll();
        this.legend.light(this.marked?.layer ?? null, this.marked?.item ?? -1);
      }
      if (what === "backdrop") {
        this.backdrop?.pick();
        this.backdrop?.draw();
      } else this.redraw();
    });
    followGround(payload, () => {
      paint(root, payload);
      this.painter.forget();
      this.state.tell("look");
    });
    this.begin();
  }

  private begin(): void {
    const { stage } = this.frame;
    this.narrow();
    if (this.layers) this.layers.box.open = !this.root.classList.contains("ochre-narrow") && this.payload.style.place !== "below" && this.root.clientHeight > 560;
    this.camera.resize(stage.clientWidth, stage.clientHeight);
    this.camera.reset();
    restoreView(location.hash, this.camera, this.state);
    this.resize();
    const watch = new ResizeObserver(() => {
      this.narrow();
      this.resize();
    });
    watch.observe(this.root);
    watch.observe(stage);
  }

  private find(px: number, py: number): Hit | null {
    const [x, y] = this.camera.toMap(px, py);
    return this.scene.find(x, y, 1 / this.camera.scale, this.camera.home, this.state, this.camera.zoom);
  }

  private mark(hit: Hit | null): void {
    if (hit?.layer === this.marked?.layer && hit?.item === this.marked?.item && hit?.group === this.marked?.group) return;
    this.marked = hit;
    this.painter.mark(hit);
    this.legend.light(hit?.layer ?? null, hit?.item ?? -1);
    this.bars?.light(hit && hit.layer === this.main ? hit.item : null);
  }

  private projection(): Projection {
    return (this.turn ??= makeProjection(this.payload.projection));
  }

  // A map too large to be drawn at each step is moved as a picture, and drawn when the reader rests.
  private redraw(moving = false): void {
    window.clearTimeout(this.rest);
    if (this.waiting) return;
    this.waiting = true;
    requestAnimationFrame(() => {
      this.waiting = false;
      if (moving && this.isSlow && this.painter.shift()) {
        this.backdrop?.draw();
        this.rest = window.setTimeout(() => this.redraw(), 140);
      } else this.draw();
      this.painter.mark(this.marked);
      this.tools.draw();
    });
  }

  private get isSlow(): boolean {
    return Math.min(...this.costs) > SLOW;
  }

  private draw(): void {
    const begin = performance.now();
    this.backdrop?.draw();
    this.painter.draw();
    // The first picture builds what later ones find.
    if (this.ready) this.costs = [this.costs[1], performance.now() - begin];
    if (this.isSlow) this.painter.keep();
    this.legend.zoomTo(this.camera.zoom);
  }

  private closeAll(): void {
    this.label.hide();
    this.popup.hide();
  }

  private moved(): void {
    this.closeAll();
    this.redraw(true);
  }

  // A place that a service found: a dot with its name.
  private goToPlace({ name, lon, lat, box }: Place): void {
    const { forward } = this.projection();
    const [x, y] = forward(lon, lat);
    const [x0, y0, x1, y1] = this.payload.frame;
    this.closeAll();
    this.mark(null);
    const off = !Number.isFinite(x + y) || x < x0 || y < y0 || x > x1 || y > y1;
    this.tools.point(off ? null : [x, y]);
    this.tools.tell(off ? say(this.payload.words, "place_off", name) : null);
    if (off) return;
    const corners = box && [forward(box[0], box[1]), forward(box[2], box[3])];
    if (corners && corners.flat().every(Number.isFinite) && corners[0][0] < corners[1][0]) this.camera.fit([...corners[0], ...corners[1]], 0.3);
    else this.camera.lookAt(x, y, Math.max(8, this.camera.zoom));
    this.redraw();
    this.label.say(name, ...this.camera.toScreen(x, y));
  }

  // Moves to an area and says what it is.
  private goTo(hit: Hit): void {
    const layer = this.scene.layers[hit.layer];
    if (layer.kind !== "areas") return;
    const box = layer.features[hit.item].box;
    if (box[0] > box[2]) return;
    this.closeAll();
    this.camera.fit(box, 0.6, 12);
    this.redraw();
    this.marked = null;
    this.mark(hit);
    this.sayAt(hit);
  }

  private sayAt(hit: Hit): void {
    const layer = this.scene.layers[hit.layer];
    if (layer.kind !== "areas") return;
    const [x0, y0, x1, y1] = layer.features[hit.item].box;
    this.label.show(layer.plan, hit.item, ...this.camera.toScreen((x0 + x1) / 2, (y0 + y1) / 2));
  }

  // By keys from area to area, in the order of their names.
  private step(by: number): void {
    const layer = this.main >= 0 ? this.scene.layers[this.main] : null;
    if (layer?.kind !== "areas" || !layer.plan.names) return;
    const { names } = layer.plan;
    const order = names.map((_, i) => i).filter((i) => layer.features[i].box[0] <= layer.features[i].box[2]);
    order.sort((a, b) => (names[a] ?? "").localeCompare(names[b] ?? "", this.payload.locale));
    const at = this.marked?.layer === this.main ? order.indexOf(this.marked.item) : -1;
    const item = order[(at + by + order.length) % order.length] ?? order[0];
    const hit = { layer: this.main, item: at < 0 ? order[by > 0 ? 0 : order.length - 1] : item };
    const [x0, y0, x1, y1] = layer.features[hit.item].box;
    const [px, py] = this.camera.toScreen((x0 + x1) / 2, (y0 + y1) / 2);
    if (px < 0 || py < 0 || px > this.camera.width || py > this.camera.height) this.camera.lookAt((x0 + x1) / 2, (y0 + y1) / 2, this.camera.zoom);
    this.popup.hide();
    this.redraw();
    this.mark(hit);
    this.sayAt(hit);
  }

  private choose(px: number, py: number): void {
    if (this.tools.press(...this.camera.toMap(px, py))) return;
    const hit = this.find(px, py);
    this.mark(hit);
    if (hit?.group && opens(hit.group)) {
      // Near enough that the group falls apart.
      const { box, x, y } = hit.group;
      const wide = Math.max((box[2] - box[0]) * this.camera.home, (box[3] - box[1]) * this.camera.home, 1);
      this.camera.lookAt(x, y, Math.max(2 * this.camera.zoom, Math.min(64, (0.5 * Math.min(this.camera.width, this.camera.height)) / wide)));
      this.mark(null);
      return this.moved();
    }
    this.open(hit, px, py);
  }

  private open(hit: Hit | null, px: number, py: number): void {
    const { click } = this.payload.page;
    if (!hit || click === "nothing") return this.popup.hide();
    const layer = this.scene.layers[hit.layer];
    if (click !== "popup" && layer.kind === "areas") {
      this.camera.fit(layer.features[hit.item].box);
      this.redraw();
      const [x0, y0, x1, y1] = layer.features[hit.item].box;
      [px, py] = this.camera.toScreen((x0 + x1) / 2, (y0 + y1) / 2);
    }
    if (click === "zoom") return this.closeAll();
    this.label.hide();
    this.popup.show(this.payload.layers[hit.layer], hit.item, px, py);
  }

  private listen(): void {
    listen(this.frame.stage, this.camera, {
      moved: () => this.moved(),
      hover: (px, py) => {
        const hit = this.find(px, py);
        this.mark(hit);
        if (hit?.group && !this.popup.open) this.label.say(say(this.payload.words, "places", hit.group.items.length), px, py);
        else if (hit && !this.popup.open) this.label.show(this.payload.layers[hit.layer], hit.item, px, py);
        else this.label.hide();
      },
      leave: () => {
        this.mark(null);
        this.label.hide();
      },
      choose: (px, py) => this.choose(px, py),
      enter: () => {
        const layer = this.marked ? this.scene.layers[this.marked.layer] : null;
        if (!this.marked || layer?.kind !== "areas") return this.choose(this.camera.width / 2, this.camera.height / 2);
        const [x0, y0, x1, y1] = layer.features[this.marked.item].box;
        this.open(this.marked, ...this.camera.toScreen((x0 + x1) / 2, (y0 + y1) / 2));
      },
      step: (by) => this.step(by),
      escape: () => {
        this.closeAll();
        this.tools.end();
        this.mark(null);
      },
      hint: (key) => this.frame.hint(say(this.payload.words, key)),
    });
  }

  // On a narrow screen the legend stands below the map, which then takes no more than its shape needs. On one that is wider than high it stays beside it,
  // and all is a little smaller.
  private narrow(): void {
    const { clientWidth, clientHeight } = this.root;
    const small = this.root.classList.toggle("ochre-narrow", clientWidth < 640 && (clientWidth < 480 || clientHeight > 0.85 * clientWidth));
    this.root.classList.toggle("ochre-short", !small && clientHeight < 480);
    const [x0, y0, x1, y1] = this.payload.frame;
    this.frame.stage.style.maxHeight = small ? `${Math.round((1.1 * this.frame.body.clientWidth * (y1 - y0)) / (x1 - x0) + 90)}px` : "";
  }

  // Nothing is drawn while the map has no size, as in a tab that is not open; it is when it gets one.
  resize(): void {
    const { stage } = this.frame;
    const now = `${stage.clientWidth} ${stage.clientHeight} ${window.devicePixelRatio}`;
    if (now === this.size || stage.clientWidth === 0 || stage.clientHeight === 0) return;
    this.size = now;
    this.narrow();
    this.camera.resize(stage.clientWidth, stage.clientHeight);
    this.painter.resize();
    this.legend.resize(this.camera.home);
    this.closeAll();
    this.draw();
    this.painter.mark(this.marked);
    this.tools.draw();
    if (!this.ready) {
      this.ready = true;
      (window.requestIdleCallback ?? window.setTimeout)(() => this.painter.prepare());
    }
  }
}

declare global {
  interface Window {
    ochreMap?: { mount: typeof mount };
  }
}

if (typeof window !== "undefined") {
  window.ochreMap = { mount };
  const start = () => {
    const data = document.getElementById("ochre-plan");
    const root = document.getElementById("ochre-map");
    if (data?.textContent && root) mount(root, JSON.parse(data.textContent) as Payload);
  };
  if (document.readyState === "loading") document.addEventListener("DOMContentLoaded", start);
  else start();
}
