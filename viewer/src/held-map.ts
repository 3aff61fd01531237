// A map that a program holds while somebody reads it: it takes changes of the plan, values, a view,
// a period and what is to be marked, and tells what the reader does. A script of its own beside
// main.ts, for previews and Shiny; R/page-changes.R writes the changes.
import { unpack } from "./columns";
import type { Box } from "./geometry";
import { itemOf, mainLayer, valuesOf } from "./items";
import type { MountedMap, Setting } from "./main";
import type { Card, Layer } from "./plan";
import type { ReaderMap } from "./reader-map";
import type { Hit } from "./scene";
import { viewText } from "./share";

interface Changes {
  changes: true;
  alt: string;
  cards: Card[][] | null;
  layers: Partial<Layer>[];
}

// A thing of a layer; R knows the row of its data. Values are there where the page has them.
interface Thing {
  layer: number;
  item: number;
  panel: number;
  value: number | null;
  text: string | null;
}

export interface Told {
  pointed: Thing | null;
  clicked: (Thing & { at: number }) | null;
  chosen: Thing | null;
  // In map units: R knows what that is in degrees.
  seen: { frame: Box; zoom: number };
  period: number;
  off: [layer: number, classes: number[]][];
}

export type Tell = <W extends keyof Told>(what: W, value: Told[W]) => void;

// Where a program wants the reader to look.
export interface Look {
  box?: [number, number, number, number]; // map units
  zoom?: number;
}

// What one map was told it does not tell on.
let telling = false;

export class HeldMap {
  // Maps that move with this one.
  readonly linked = new Set<HeldMap>();
  private mounted: MountedMap;
  // What is to be done when the map is awake; else a choice of before would undo it.
  private readonly todo: ((map: ReaderMap) => void)[] = [];
  private isAwake = false;
  private marks: string[] = [];
  private readonly last = new Map<string, string>();

  constructor(
    private readonly root: HTMLElement,
    given: unknown,
    private readonly setting: Setting = {},
    private readonly tell: Tell = () => undefined,
  ) {
    this.mounted = this.mount(given, null);
  }

  // The map, if it could be drawn.
  get map(): ReaderMap | null {
    return "pointing" in this.mounted ? (this.mounted as ReaderMap) : null;
  }

  resize(): void {
    this.mounted.resize();
  }

  dispose(): void {
    this.mounted.dispose();
  }

  // Changes of the plan that is shown, or another plan, in the view of the one before.
  renew(given: unknown): void {
    const { map } = this;
    const held = (given as { plan?: Partial<Changes> } | null)?.plan;
    if (map && held?.changes) return takeChanges(map, unpack(given) as Changes);
    const view = map && viewText(map.camera, map.state, map.pointing.chosen, map.root.id);
    this.dispose();
    this.mounted = this.mount(given, view);
  }

  // New values by codes, in the form that live.ts reads.
  values(given: unknown): void {
    this.map?.live?.take(() => given);
  }

  look({ box, zoom }: Look): void {
    this.act((map) => {
      if (box) map.camera.fit(box, 0.1);
      else if (zoom === undefined) map.camera.reset();
      if (zoom !== undefined) map.camera.lookAt(map.camera.x, map.camera.y, zoom);
      map.moved();
    });
  }

  period(panel: number): void {
    this.act((map) => map.state.setPanel(panel));
  }

  choose(key: string | null): void {
    this.act(({ pointing }) => {
      const hit = key === null ? null : this.find(key);
      if (hit) pointing.select(hit);
      else pointing.letGo();
    });
  }

  // Marks things, whatever the reader points at.
  mark(keys: string[]): void {
    this.marks = keys;
    this.act(({ pointing }) => {
      pointing.held = keys.flatMap((key) => this.find(key) ?? []);
      pointing.again();
    });
  }

  private act(what: (map: ReaderMap) => void): void {
    this.todo.push(what);
    if (this.isAwake) this.catchUp();
  }

  private catchUp(): void {
    this.isAwake = true;
    const { map } = this;
    if (map) for (const what of this.todo.splice(0)) what(map);
  }

  private find(key: string): Hit | null {
    const { map } = this;
    if (!map) return null;
    const main = mainLayer(map.plan);
    const layer = map.plan.layers[main];
    const item = layer ? itemOf(layer, key) : -1;
    return item < 0 ? null : { layer: main, item };
  }

  private mount(given: unknown, view: string | null): MountedMap {
    if (!window.ochreMap) throw new Error("The viewer is not on this page.");
    const mounted = window.ochreMap.mount(this.root, given, this.setting);
    this.mounted = mounted;
    this.isAwake = false;
    const { map } = this;
    if (map) {
      map.from = view;
      map.awake = () => this.catchUp();
      if (this.marks.length) this.mark(this.marks);
      this.follow(map);
    }
    return mounted;
  }

  private follow(map: ReaderMap): void {
    const { state, told } = map;
    const { view, key } = told;
    map.told = {
      view: (seen, moving) => {
        view?.(seen, moving);
        this.toLinked((other) => other.lookLike(seen, moving));
        this.say("seen", viewOf(map));
      },
      key: (marked) => {
        key?.(marked);
        this.toLinked((other) => other.point(marked));
        this.say("pointed", thingOf(map, map.pointing.marked));
      },
      // Each press is told, also one on the same thing.
      click: (hit) => {
        const thing = thingOf(map, hit);
        this.say("clicked", thing && { ...thing, at: Date.now() });
      },
    };
    state.on(["chosen", "values"], () => this.say("chosen", thingOf(map, map.pointing.chosen)));
    state.on(["panel"], () => {
      this.toLinked((other) => other.state.setPanel(state.panel));
      this.say("period", state.panel);
    });
    state.on(["classes"], () => this.say("off", offOf(map)));
  }

  private toLinked(act: (other: ReaderMap) => void): void {
    if (telling) return;
    telling = true;
    for (const { map } of this.linked) if (map) act(map);
    telling = false;
  }

  // What has been told is not told again.
  private say<W extends keyof Told>(what: W, value: Told[W]): void {
    const text = JSON.stringify(value);
    if (this.last.get(what) === text) return;
    this.last.set(what, text);
    this.tell(what, value);
  }
}

function thingOf({ plan, state }: ReaderMap, hit: Hit | null): Thing | null {
  const layer = hit && !hit.group ? plan.layers[hit.layer] : null;
  if (!hit || !layer) return null;
  const { panel } = state;
  const { numbers, texts } = valuesOf(layer, panel);
  const [value, text] = [numbers?.[hit.item] ?? null, texts?.[hit.item] ?? null];
  return { layer: hit.layer, item: hit.item, panel, value, text };
}

function viewOf({ camera }: ReaderMap): Told["seen"] {
  const [x0, y0] = camera.toMap(0, camera.height);
  const [x1, y1] = camera.toMap(camera.width, 0);
  return { frame: [x0, y0, x1, y1], zoom: camera.zoom };
}

const offOf = ({ plan, state }: ReaderMap): Told["off"] =>
  plan.layers.flatMap((_, i) => {
    const off = state.offText(i);
    return off ? [[i, off.split(",").map(Number)] as [number, number[]]] : [];
  });

// Fields are taken over as they are: a column is made when it is first asked for.
function takeChanges(map: ReaderMap, { alt, cards, layers }: Changes): void {
  const { painter, plan, root, scene, state } = map;
  layers.forEach((fields, i) => {
    const layer = plan.layers[i];
    if (layer) Object.defineProperties(layer, Object.getOwnPropertyDescriptors(fields));
  });
  plan.page.cards = cards;
  plan.alt = alt;
  const said = root.querySelector("[id^='ochre-alt-']");
  if (said) said.textContent = alt;
  // Paths of areas are those of their classes: other colours alone need no new ones.
  const anew = (fields: object, i: number) =>
    plan.layers[i]?.kind === "areas"
      ? ["class", "panels", "hatch"].some((name) => name in fields)
      : Object.keys(fields).length > 0;
  if (layers.some(anew)) {
    scene.forget();
    painter.forget();
  }
  state.tell("panel");
  map.redraw.soon();
}

declare global {
  interface Window {
    ochreHeld?: typeof HeldMap;
  }
}

window.ochreHeld = HeldMap;
