// What the reader points at, presses or walks to by keys: it is marked in map, legend and bars, and
// a label or a popup says what it is.
import type { Bars } from "./beside";
import type { Camera } from "./camera";
import type { Painter } from "./draw";
import { entry } from "./entry";
import type { Box } from "./geometry";
import { opens } from "./groups";
import type { Legend } from "./legend";
import type { HoverLabel, PopupCard } from "./panels";
import type { Place } from "./places";
import type { Plan } from "./plan";
import type { Projection } from "./projection";
import type { Hit, Scene } from "./scene";
import type { MapState } from "./state";
import type { Tools } from "./tools";
import { say } from "./words";

export interface Pointed {
  plan: Plan;
  state: MapState;
  scene: Scene;
  camera: Camera;
  painter: Painter;
  legend: Legend;
  label: HoverLabel;
  popup: PopupCard;
  bars: () => Bars | null;
  tools: () => Tools;
  projection: () => Projection;
  redraw: (moving?: boolean) => void;
  // The layer that search, table and bars speak of; -1 for none.
  main: number;
}

export class Pointing {
  private marked: Hit | null = null;
  // Nothing is looked up before the index is there, but where the reader asks for it.
  private canHover = false;
  private waiting: [number, number] | null = null;

  constructor(private readonly on: Pointed) {}

  mark(hit: Hit | null): void {
    const old = this.marked;
    if (hit?.layer === old?.layer && hit?.item === old?.item && hit?.group === old?.group) return;
    this.marked = hit;
    this.on.painter.mark(hit);
    this.on.legend.light(hit?.layer ?? null, hit?.item ?? -1);
    this.on.bars()?.light(hit && hit.layer === this.on.main ? hit.item : null);
  }

  // What is marked is drawn over a new picture.
  again(): void {
    this.on.painter.mark(this.marked);
  }

  // Another panel has other words.
  relight(): void {
    this.close();
    this.on.legend.light(this.marked?.layer ?? null, this.marked?.item ?? -1);
  }

  close(): void {
    this.on.label.hide();
    this.on.popup.hide();
  }

  ready(): void {
    this.canHover = true;
    if (this.waiting) this.hover(...this.waiting);
    this.waiting = null;
  }

  hover(px: number, py: number): void {
    if (!this.canHover) return void (this.waiting = [px, py]);
    const { plan, label, popup } = this.on;
    const hit = this.find(px, py);
    this.mark(hit);
    const layer = hit && plan.layers[hit.layer];
    if (!layer || popup.open) return label.hide();
    if (hit.group) label.say(say(plan.words, "places", hit.group.items.length), px, py);
    else label.show(layer, hit.item, px, py);
  }

  leave(): void {
    this.waiting = null;
    this.mark(null);
    this.on.label.hide();
  }

  escape(): void {
    this.close();
    this.on.tools().end();
    this.mark(null);
  }

  choose(px: number, py: number): void {
    const { camera, tools } = this.on;
    if (tools().press(...camera.toMap(px, py))) return;
    const hit = this.find(px, py);
    this.mark(hit);
    if (hit?.group && opens(hit.group)) this.openGroup(hit.group);
    else this.open(hit, px, py);
  }

  // What is marked, or what lies in the middle.
  enter(): void {
    const { camera } = this.on;
    const box = this.marked && this.boxOf(this.marked);
    if (!box) return this.choose(camera.width / 2, camera.height / 2);
    this.open(this.marked, ...camera.toScreen(...middleOf(box)));
  }

  // Moves to an area and says what it is.
  goTo(hit: Hit): void {
    const box = this.boxOf(hit);
    if (!box || box[0] > box[2]) return;
    this.close();
    this.on.camera.fit(box, 0.6, 12);
    this.on.redraw();
    this.marked = null;
    this.mark(hit);
    this.sayAt(hit);
  }

  // A place that a service found: a dot with its name.
  goToPlace({ name, lon, lat, box }: Place): void {
    const { camera, label, plan, tools } = this.on;
    const { forward } = this.on.projection();
    const [x, y] = forward(lon, lat);
    const [x0, y0, x1, y1] = plan.frame;
    this.close();
    this.mark(null);
    const off = !Number.isFinite(x + y) || x < x0 || y < y0 || x > x1 || y > y1;
    tools().point(off ? null : [x, y]);
    tools().tell(off ? say(plan.words, "place_off", name) : null);
    if (off) return;
    const low = box ? forward(box[0], box[1]) : [NaN, NaN];
    const high = box ? forward(box[2], box[3]) : [NaN, NaN];
    const around: Box = [entry(low, 0), entry(low, 1), entry(high, 0), entry(high, 1)];
    if (around.every(Number.isFinite) && around[0] < around[2]) camera.fit(around, 0.3);
    else camera.lookAt(x, y, Math.max(8, camera.zoom));
    this.on.redraw();
    label.say(name, ...camera.toScreen(x, y));
  }

  // By keys from area to area, in the order of their names.
  step(by: number): void {
    const { camera, popup, main } = this.on;
    const order = this.walk();
    if (!order.length) return;
    const at = this.marked?.layer === main ? order.indexOf(this.marked.item) : -1;
    const next = at < 0 ? (by > 0 ? 0 : order.length - 1) : (at + by + order.length) % order.length;
    const hit = { layer: main, item: entry(order, next) };
    const box = this.boxOf(hit);
    if (!box) return;
    const [px, py] = camera.toScreen(...middleOf(box));
    const seen = px >= 0 && py >= 0 && px <= camera.width && py <= camera.height;
    if (!seen) camera.lookAt(...middleOf(box), camera.zoom);
    popup.hide();
    this.on.redraw();
    this.mark(hit);
    this.sayAt(hit);
  }

  // Areas that are on the map, by name.
  private walk(): number[] {
    const { main, plan, scene } = this.on;
    const layer = main >= 0 ? scene.layers[main] : null;
    if (layer?.kind !== "areas" || !layer.plan.names) return [];
    const { names } = layer.plan;
    const features = layer.fine.get();
    const drawn = names.map((_, i) => i).filter((i) => hasRoom(entry(features, i).box));
    const collator = new Intl.Collator(plan.locale);
    return drawn.sort((a, b) => collator.compare(names[a] ?? "", names[b] ?? ""));
  }

  // Is anything drawn at a place of the stage?
  covers(px: number, py: number): boolean {
    return this.find(px, py) !== null;
  }

  private find(px: number, py: number): Hit | null {
    const { camera, scene, state } = this.on;
    const [x, y] = camera.toMap(px, py);
    return scene.find(x, y, 1 / camera.scale, camera.home, state, camera.zoom);
  }

  private boxOf(hit: Hit): Box | null {
    const layer = entry(this.on.scene.layers, hit.layer);
    return layer.kind === "areas" ? entry(layer.fine.get(), hit.item).box : null;
  }

  private sayAt(hit: Hit): void {
    const layer = entry(this.on.plan.layers, hit.layer);
    const box = this.boxOf(hit);
    if (box) this.on.label.show(layer, hit.item, ...this.on.camera.toScreen(...middleOf(box)));
  }

  // Near enough that the group falls apart.
  private openGroup({ box, x, y }: NonNullable<Hit["group"]>): void {
    const { camera } = this.on;
    const side = Math.max(box[2] - box[0], box[3] - box[1]);
    const wide = Math.max(side * camera.home, 1);
    const near = (0.5 * Math.min(camera.width, camera.height)) / wide;
    camera.lookAt(x, y, Math.max(2 * camera.zoom, Math.min(64, near)));
    this.mark(null);
    this.close();
    this.on.redraw(true);
  }

  private open(hit: Hit | null, px: number, py: number): void {
    const { camera, label, plan, popup } = this.on;
    const { click } = plan.page;
    if (!hit || click === "nothing") return popup.hide();
    const box = click === "popup" ? null : this.boxOf(hit);
    let at: [number, number] = [px, py];
    if (box) {
      camera.fit(box);
      this.on.redraw();
      at = camera.toScreen(...middleOf(box));
    }
    if (click === "zoom") return this.close();
    label.hide();
    popup.show(entry(plan.layers, hit.layer), hit.item, ...at);
  }
}

const middleOf = (box: Box): [number, number] => [(box[0] + box[2]) / 2, (box[1] + box[3]) / 2];
const hasRoom = (box: Box): boolean => box[0] <= box[2];
