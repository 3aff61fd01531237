// What the reader points at, chooses or walks to by keys: one thing is chosen at a time, from map,
// search, table, bars or keys; it is marked in map, legend and bars, and its values are said.
import type { Bars } from "./beside";
import type { Camera } from "./camera";
import type { Details } from "./details";
import type { Painter } from "./draw";
import { reach } from "./draw-symbols";
import { entry } from "./entry";
import type { Box } from "./geometry";
import { opens } from "./groups";
import { isDrawn, itemOf, itemsIn, keyOf, named } from "./items";
import type { Legend } from "./legend";
import type { HoverLabel, Rect } from "./panels";
import type { Place } from "./places";
import type { Plan } from "./plan";
import type { Projection } from "./projection";
import type { Hit, Scene } from "./scene";
import { hoverText, type MapState } from "./state";
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
  details: Details;
  // Says a text to those who do not see the map.
  announce: (text: string) => void;
  focus: () => void;
  bars: () => Bars | null;
  tools: () => Tools;
  projection: () => Projection;
  redraw: (moving?: boolean) => void;
  // Other maps mark the thing of the same code or name.
  told: (key: string | null) => void;
  // A press, whatever the map does then.
  clicked: (hit: Hit | null) => void;
  // The layer that keys and bars speak of; -1 for none.
  main: number;
}

export class Pointing {
  marked: Hit | null = null;
  chosen: Hit | null = null;
  // Things that stay marked, whatever the reader points at.
  held: Hit[] = [];
  // Nothing is looked up before the index is there, but where the reader asks for it.
  private canHover = false;
  private waiting: [number, number] | null = null;
  // Where the pointer rests.
  private at: [number, number] | null = null;

  constructor(private readonly on: Pointed) {}

  mark(hit: Hit | null): void {
    if (same(hit, this.marked)) return;
    this.marked = hit;
    this.light();
    const layer = hit && !hit.group ? this.on.plan.layers[hit.layer] : null;
    this.on.told(layer && hit ? keyOf(layer, hit.item) : null);
  }

  // Marks what another map has marked, with its label.
  follow(key: string | null): void {
    const { camera, details, label, main, plan } = this.on;
    const layer = plan.layers[main];
    if (!layer) return;
    const item = key === null ? -1 : itemOf(layer, key);
    const hit = item < 0 ? null : { layer: main, item };
    if (same(hit, this.marked)) return;
    this.marked = hit;
    this.light();
    const box = hit && this.boxOf(hit);
    if (details.inPanel) details.hover(hit && { layer, item });
    else if (box && !same(hit, this.chosen))
      label.show(layer, item, ...camera.toScreen(...middleOf(box)));
    else label.hide();
  }

  // What is marked is drawn over a new picture.
  again(): void {
    const { painter } = this.on;
    painter.mark([...this.held, this.chosen, this.marked].filter((hit) => hit !== null));
  }

  // Another panel has other words.
  relight(): void {
    this.on.label.hide();
    this.light();
    this.settled();
    if (this.chosen) this.showDetails(this.chosen);
  }

  // The map has moved: what stood beside a thing is put away, the thing stays chosen.
  close(): void {
    this.on.label.hide();
    this.on.details.putAway();
  }

  // The map has another size: what stood beside a thing stands there again.
  resized(): void {
    const { open } = this.on.details;
    this.close();
    if (open && this.chosen) this.showDetails(this.chosen);
  }

  ready(): void {
    this.canHover = true;
    if (this.waiting) this.hover(...this.waiting);
    this.waiting = null;
  }

  // The map is drawn anew under a pointer that rests.
  settled(): void {
    if (this.at && this.canHover) this.hover(...this.at);
  }

  hover(px: number, py: number): void {
    this.at = [px, py];
    if (!this.canHover) return void (this.waiting = [px, py]);
    const { plan, label, details } = this.on;
    const hit = this.find(px, py);
    this.mark(hit);
    const layer = hit && plan.layers[hit.layer];
    if (hit?.group) return label.say(say(plan.words, "places", hit.group.items.length), px, py);
    if (details.inPanel) {
      label.hide();
      return details.hover(layer ? { layer, item: hit.item } : null);
    }
    if (!layer || same(hit, this.chosen)) return label.hide();
    label.show(layer, hit.item, px, py);
  }

  leave(): void {
    this.waiting = this.at = null;
    this.mark(null);
    this.on.label.hide();
    this.on.details.hover(null);
  }

  escape(): void {
    this.letGo();
    this.on.label.hide();
    this.on.tools().end();
    this.mark(null);
  }

  // Nothing is chosen any more.
  letGo(): void {
    const had = this.chosen;
    this.chosen = null;
    this.on.details.hide();
    this.again();
    this.light();
    if (had) this.on.state.tell("chosen");
  }

  choose(px: number, py: number): void {
    const { camera, tools } = this.on;
    if (tools().press(...camera.toMap(px, py))) return;
    const hit = this.find(px, py);
    this.mark(hit);
    if (hit?.group && opens(hit.group)) this.openGroup(hit.group);
    else this.open(hit, [px, py]);
  }

  // By a key: what is marked, or what lies in the middle.
  enter(): void {
    const { camera, details } = this.on;
    const hit = this.marked ?? this.chosen;
    const box = hit && this.boxOf(hit);
    if (!box) this.choose(camera.width / 2, camera.height / 2);
    else this.open(hit, camera.toScreen(...middleOf(box)));
    details.focus();
  }

  // Moves to a thing and says what it is.
  goTo(hit: Hit): void {
    const { camera, focus, plan, redraw, tools } = this.on;
    const box = this.boxOf(hit);
    if (!box || !hasRoom(box)) {
      const name = named(plan.layers[hit.layer])?.names?.[hit.item] ?? "";
      return tools().tell(say(plan.words, "not_drawn", name));
    }
    this.letGo();
    camera.fit(box, 0.6, this.nearest(hit, 12));
    redraw();
    focus();
    this.mark(hit);
    this.select(hit, camera.toScreen(...middleOf(box)));
    this.sayAt(hit);
  }

  // A place that a service found: a dot with its name.
  goToPlace({ name, lon, lat, box }: Place): void {
    const { camera, label, plan, tools } = this.on;
    const { forward } = this.on.projection();
    const [x, y] = forward(lon, lat);
    const [x0, y0, x1, y1] = plan.frame;
    this.escape();
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

  // By keys from thing to thing, in the order of their names.
  step(by: number): void {
    const { camera, main } = this.on;
    const order = this.walk();
    if (!order.length) return this.tellNearer();
    const now = [this.marked, this.chosen].find((hit) => hit?.layer === main);
    const at = now ? order.indexOf(now.item) : -1;
    const next = at < 0 ? (by > 0 ? 0 : order.length - 1) : (at + by + order.length) % order.length;
    const hit = { layer: main, item: entry(order, next) };
    const box = this.boxOf(hit);
    if (!box) return;
    const [px, py] = camera.toScreen(...middleOf(box));
    const seen = px >= 0 && py >= 0 && px <= camera.width && py <= camera.height;
    if (!seen) camera.lookAt(...middleOf(box), camera.zoom);
    this.letGo();
    this.on.redraw();
    this.mark(hit);
    this.sayAt(hit);
  }

  // Is anything drawn at a place of the stage?
  covers(px: number, py: number): boolean {
    const { camera, scene } = this.on;
    if (scene.sections?.covers(...camera.toMap(px, py))) return true;
    return this.find(px, py) !== null;
  }

  // Where a section is a picture there is nothing to step through yet.
  private tellNearer(): void {
    const { plan, scene, tools } = this.on;
    if (!scene.sections) return;
    const words = say(plan.words, "come_nearer");
    tools().tell(words);
    this.on.announce(words);
  }

  // Things of the main layer that are on the map, by name; of one in sections those in view.
  private walk(): number[] {
    const { camera, main, plan, scene, state } = this.on;
    const layer = named(plan.layers[main]);
    if (!layer?.names) return [];
    const { names } = layer;
    const items = itemsIn(scene, camera, main) ?? names.map((_, i) => i);
    const drawn = items.filter((i) => {
      const box = scene.boxOf(main, i);
      return isDrawn(layer, i, state.panel) && (!box || layer.kind !== "areas" || hasRoom(box));
    });
    const collator = new Intl.Collator(plan.locale);
    return drawn.sort((a, b) => collator.compare(names[a] ?? "", names[b] ?? ""));
  }

  private light(): void {
    const { bars, legend, main } = this.on;
    const hit = this.marked ?? this.chosen;
    this.again();
    legend.light(hit?.layer ?? null, hit?.item ?? -1);
    bars()?.light(hit && hit.layer === main ? hit.item : null);
  }

  private find(px: number, py: number): Hit | null {
    const { camera, scene, state } = this.on;
    const [x, y] = camera.toMap(px, py);
    return scene.find(x, y, 1 / camera.scale, camera.home, state, camera.zoom);
  }

  // In map units.
  private boxOf({ layer: at, item, group }: Hit): Box | null {
    const { camera, scene } = this.on;
    if (group) return group.box;
    const box = scene.boxOf(at, item);
    if (box) return box;
    const layer = entry(scene.layers, at);
    if (layer.kind !== "symbols") return null;
    if (item >= layer.plan.x.length) return null;
    const [x, y] = [entry(layer.plan.x, item), entry(layer.plan.y, item)];
    const r = reach(layer.plan, item, camera) / camera.scale;
    return [x - r, y - r, x + r, y + r];
  }

  // Areas that come in sections may be far smaller than others.
  private nearest({ layer }: Hit, usual: number): number {
    return this.on.scene.sections?.layer === layer ? Infinity : usual;
  }

  sayAt(hit: Hit): void {
    const { camera, details, label, plan, state } = this.on;
    const layer = entry(plan.layers, hit.layer);
    const text = hoverText(layer, hit.item, state.panel);
    if (text) this.on.announce(text);
    const box = this.boxOf(hit);
    if (details.inPanel) details.hover({ layer, item: hit.item });
    else if (box && !details.open)
      label.show(layer, hit.item, ...camera.toScreen(...middleOf(box)));
  }

  // Near enough that the group falls apart.
  private openGroup({ box, x, y }: NonNullable<Hit["group"]>): void {
    const { camera } = this.on;
    const side = Math.max(box[2] - box[0], box[3] - box[1]);
    const wide = Math.max(side * camera.home, 1);
    const near = (0.5 * Math.min(camera.width, camera.height)) / wide;
    camera.lookAt(x, y, Math.max(2 * camera.zoom, Math.min(64, near)));
    this.mark(null);
    this.escape();
    this.on.redraw(true);
  }

  private open(hit: Hit | null, at: [number, number]): void {
    const { camera, label, plan } = this.on;
    const { click } = plan.page;
    this.on.clicked(hit);
    if (!hit || click === "nothing") return this.letGo();
    const box = click === "popup" ? null : this.boxOf(hit);
    if (box) {
      camera.fit(box, 0.25, this.nearest(hit, 16));
      this.on.redraw();
      at = camera.toScreen(...middleOf(box));
    }
    label.hide();
    if (click === "zoom") return this.letGo();
    this.select(hit, at);
  }

  select(hit: Hit, at?: [number, number]): void {
    this.chosen = hit;
    this.showDetails(hit, at);
    this.light();
    this.on.state.tell("chosen");
  }

  private showDetails(hit: Hit, at?: [number, number]): void {
    const { camera, details, plan } = this.on;
    const box = this.boxOf(hit);
    if (!box) return;
    const [left, top] = camera.toScreen(box[0], box[3]);
    const [right, bottom] = camera.toScreen(box[2], box[1]);
    const around: Rect = [left, top, right, bottom];
    const shown = { layer: entry(plan.layers, hit.layer), item: hit.item };
    details.show(shown, around, at ?? camera.toScreen(...middleOf(box)));
  }
}

const same = (a: Hit | null, b: Hit | null): boolean =>
  a?.layer === b?.layer && a?.item === b?.item && a?.group === b?.group;
const middleOf = (box: Box): [number, number] => [(box[0] + box[2]) / 2, (box[1] + box[3]) / 2];
const hasRoom = (box: Box): boolean => box[0] <= box[2];
