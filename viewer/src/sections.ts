// The areas of a layer that come in sections, each in a file that is loaded when the reader comes
// to see it: squares of the map in levels, from pictures of cells down to shapes with all their
// corners. What is loaded is written into the layer, item by item, so that all that reads a layer
// finds it there.
import type { Camera } from "./camera";
import { unpack } from "./columns";
import { entry } from "./entry";
import { contains, type Box, type Feature } from "./geometry";
import { PackedReader } from "./packed";
import type { AreaLayer, AreaPanel, Plan, Sections, Topology } from "./plan";
import { Scene } from "./scene";
import { byScript } from "./section-files";
import { clear, fill, type Part } from "./section-words";
import { type MapState, panelOf } from "./state";

// How many files are on their way at once, and how many sections are kept.
const AT_ONCE = 6;
const KEPT = 60;
const AGAIN = 3000; // milliseconds after which what did not come is asked for again

const PICTURE = 1;
const WHOLE = 3;

interface Shapes {
  scene: Scene;
  // The item of each of its features, and back.
  items: number[];
  at: Map<number, number>;
}

export class Section {
  readonly under: Section[] = [];
  shapes: Shapes | null = null;
  // Of each panel the cells, row by row from the north: 0 for nothing, else the class and one.
  cells: Uint8Array[] | null = null;
  asked = -Infinity;
  coming = false;
  seen = 0;

  constructor(
    readonly place: string,
    readonly file: string,
    readonly level: number,
    readonly kind: number,
    readonly box: Box,
  ) {}

  get here(): boolean {
    return this.shapes !== null || this.cells !== null;
  }
  holds(x: number, y: number): boolean {
    const [x0, y0, x1, y1] = this.box;
    return x >= x0 && x < x1 && y >= y0 && y < y1;
  }
}

export type Fetch = (section: Section) => Promise<string>;

export class SectionStore {
  readonly layer: number;
  readonly about: Sections;
  // The picture of level 0, which comes with the plan.
  readonly top: Section;
  private readonly root: Section | null;
  private drawn: Section[] = [];
  private wanted: Section[] = [];
  private pointed: Section | null = null;
  private readonly kept = new Set<Section>();
  private readonly owners = new Map<number, Section>();
  private coming = 0;
  private changed: (seen: boolean) => void = () => undefined;
  private lost: (is: boolean) => void = () => undefined;
  private broken = false;
  private turn = 0;

  constructor(
    private readonly plan: Plan,
    about: Sections,
    private readonly fetch: Fetch = byScript,
  ) {
    this.about = about;
    this.layer = about.layer;
    const box = about.box as Box;
    this.top = new Section("", "", 0, PICTURE, box);
    this.top.cells = about.picture.map((text) => this.cellsOf(text));
    this.root = sectionTree(about);
    if (this.root?.kind === PICTURE) this.root.cells = this.top.cells;
  }

  // Calls back when a section has come, and says whether it is to be seen or was pointed at; and
  // when one does not come, and when one comes after that.
  on(changed: (seen: boolean) => void, lost: (is: boolean) => void): void {
    [this.changed, this.lost] = [changed, lost];
  }

  // What is to be drawn for a view, the lowest first; what is missing is asked for.
  view(camera: Camera, dense: number): Section[] {
    this.turn += 1;
    this.wanted = [];
    this.drawn = [];
    const wide = (this.about.box[2] ?? 0) - (this.about.box[0] ?? 0);
    const level = Math.ceil(Math.log2((wide * camera.scale * dense) / this.about.cells));
    const seen = viewBox(camera);
    if (this.root && !this.pick(this.root, level, seen)) this.drawn.unshift(this.top);
    for (const section of this.drawn) section.seen = this.turn;
    this.next();
    return this.drawn;
  }

  // Puts a section, or what lies under it, on the list; false where something of it is missing.
  private pick(section: Section, level: number, seen: Box): boolean {
    if (!overlaps(section.box, seen)) return true;
    if (section.level >= level || section.kind === WHOLE) {
      if (section.here) this.drawn.push(section);
      else this.wanted.push(section);
      return section.here;
    }
    const from = this.drawn.length;
    let all = true;
    for (const one of section.under) all = this.pick(one, level, seen) && all;
    if (all || !section.here) return all;
    this.drawn.splice(from, 0, section);
    return true;
  }

  // The item at a place; -1 for none, or for one that is not here yet and is asked for.
  find(x: number, y: number, state: MapState): number {
    const section = this.shapesAt(x, y);
    this.pointed = section?.here === false ? section : null;
    if (this.pointed) this.next();
    if (!section?.shapes) return -1;
    section.seen = this.turn;
    const { scene, items } = section.shapes;
    const areas = areasOf(scene, this.layer);
    const features = areas.fine.get();
    const local = areas.index
      .get()
      .at(x, y)
      .find((i) => contains(entry(features, i), x, y));
    if (local === undefined) return -1;
    const item = entry(items, local);
    const layer = entry(this.plan.layers, this.layer) as AreaLayer;
    const key = panelOf(layer, state.panel).class[item];
    return key !== undefined && state.isOff(this.layer, key) ? -1 : item;
  }

  // Is anything there, as far as the picture of the whole tells?
  covers(x: number, y: number): boolean {
    const [x0, y0, x1, y1] = this.top.box;
    const { cells } = this.about;
    const column = Math.floor(((x - x0) / (x1 - x0)) * cells);
    const row = Math.floor(((y1 - y) / (y1 - y0)) * cells);
    if (column < 0 || row < 0 || column >= cells || row >= cells) return false;
    return this.top.cells?.some((one) => one[row * cells + column]) ?? false;
  }

  // The section with shapes that a place lies in: the one that is drawn, or the first below it.
  private shapesAt(x: number, y: number): Section | null {
    const drawn = this.drawn.filter((one) => one.shapes && one.holds(x, y)).pop();
    if (drawn) return drawn;
    let section = this.root;
    while (section?.kind === PICTURE)
      section = section.under.find((one) => one.holds(x, y)) ?? null;
    return section?.holds(x, y) ? section : null;
  }

  // Items whose shapes are drawn and lie in a view.
  items(camera: Camera): number[] {
    const seen = viewBox(camera);
    const found = new Set<number>();
    for (const { shapes } of this.drawn) {
      if (!shapes) continue;
      const features = areasOf(shapes.scene, this.layer).fine.get();
      for (const [local, item] of shapes.items.entries())
        if (overlaps(entry(features, local).box, seen)) found.add(item);
    }
    return [...found];
  }

  // Where an item lies, as far as it is loaded; null where nothing of it is.
  box(item: number): Box | null {
    const held = this.holding(item);
    if (!held.length) return null;
    const box: Box = [Infinity, Infinity, -Infinity, -Infinity];
    for (const { feature } of held) {
      const [x0, y0, x1, y1] = feature.box;
      box[0] = Math.min(box[0], x0);
      box[1] = Math.min(box[1], y0);
      box[2] = Math.max(box[2], x1);
      box[3] = Math.max(box[3], y1);
    }
    return box;
  }

  // The shapes of an item, in the sections that are drawn or else in the one that brought it.
  holding(item: number): { section: Section; feature: Feature }[] {
    const drawn = this.drawn.filter((one) => one.shapes?.at.has(item));
    const owner = this.owners.get(item);
    const sections = drawn.length ? drawn : owner ? [owner] : [];
    return sections.flatMap((section) => {
      const local = section.shapes?.at.get(item);
      if (!section.shapes || local === undefined) return [];
      const features = areasOf(section.shapes.scene, this.layer).fine.get();
      return [{ section, feature: entry(features, local) }];
    });
  }

  // Asks for what is missing: first what is pointed at, then what is seen.
  private next(): void {
    const now = performance.now();
    const open = [this.pointed, ...this.wanted].filter(
      (one) => one !== null && !one.here && !one.coming && now - one.asked > AGAIN,
    );
    for (const section of open) {
      if (!section || this.coming >= AT_ONCE) return;
      this.ask(section);
    }
  }

  private ask(section: Section): void {
    section.coming = true;
    section.asked = performance.now();
    this.coming += 1;
    this.fetch(section)
      .then((text) => {
        this.take(section, unpack(JSON.parse(text)) as Content);
        this.tell(false);
      })
      .catch(() => {
        this.tell(true);
        window.setTimeout(() => this.next(), AGAIN + 1);
      })
      .finally(() => {
        section.coming = false;
        this.coming -= 1;
        if (section.here) this.changed(this.wanted.includes(section));
        this.next();
      });
  }

  private tell(broken: boolean): void {
    if (broken !== this.broken) this.lost(broken);
    this.broken = broken;
  }

  private take(section: Section, content: Content): void {
    if ("pictures" in content) section.cells = content.pictures.map((text) => this.cellsOf(text));
    else this.takeShapes(section, content);
    section.seen = this.turn;
    this.kept.add(section);
    this.letGo();
  }

  private takeShapes(section: Section, { topology, layers: [part] }: ShapesContent): void {
    const { layers } = this.plan;
    const whole = entry(layers, this.layer) as AreaLayer;
    const items = part.rows;
    section.shapes = {
      scene: new Scene(planOf(this.plan, this.layer, topology, part)),
      items,
      at: new Map(items.map((item, local) => [item, local])),
    };
    fill(whole, part, items);
    for (const item of items) this.owners.set(item, section);
  }

  // An item whose words must stay.
  protected get chosen(): number | null {
    return null;
  }

  // What was not seen for longest goes, with its words.
  private letGo(): void {
    if (this.kept.size <= KEPT) return;
    const whole = entry(this.plan.layers, this.layer) as AreaLayer;
    const { chosen } = this;
    const oldest = [...this.kept]
      .filter((section) => chosen === null || this.owners.get(chosen) !== section)
      .sort((a, b) => a.seen - b.seen);
    for (const section of oldest.slice(0, this.kept.size - KEPT)) {
      if (section.seen === this.turn) return;
      const gone = section.shapes?.items.filter((item) => this.owners.get(item) === section) ?? [];
      clear(whole, gone);
      for (const item of gone) this.owners.delete(item);
      section.shapes = section.cells = null;
      section.asked = -Infinity;
      this.kept.delete(section);
    }
  }

  private cellsOf(text: string): Uint8Array {
    const { cells, classes } = this.about;
    const kinds = classes + 2;
    const reader = new PackedReader(text);
    const out = new Uint8Array(cells * cells);
    for (let at = 0; !reader.done;) {
      const number = reader.next();
      const end = at + 1 + Math.floor(number / kinds);
      out.fill(number % kinds, at, end);
      at = end;
    }
    return out;
  }
}

interface ShapesContent {
  topology: Topology;
  layers: [Part & { rows: number[] }];
}
type Content = { pictures: string[] } | ShapesContent;

function sectionTree(about: Sections): Section | null {
  const [x0 = 0, y0 = 0, x1 = 0] = about.box;
  const known = new Map<string, Section>();
  const place = (level: number, column: number, row: number) => `${level}-${column}-${row}`;
  let root: Section | null = null;
  about.level.forEach((level, k) => {
    const [column, row] = [entry(about.column, k), entry(about.row, k)];
    const side = (x1 - x0) / 2 ** level;
    const [left, low] = [x0 + column * side, y0 + row * side];
    const name = place(level, column, row);
    const file = `${about.folder}/${name}-${entry(about.hash, k)}.js`;
    const box: Box = [left, low, left + side, low + side];
    const section = new Section(name, file, level, entry(about.kind, k), box);
    known.set(name, section);
    known.get(place(level - 1, column >> 1, row >> 1))?.under.push(section);
    root ??= section;
  });
  return root;
}

const overlaps = (a: Box, b: Box): boolean =>
  a[0] <= b[2] && a[2] >= b[0] && a[1] <= b[3] && a[3] >= b[1];

function viewBox(camera: Camera): Box {
  const [x0, y1] = camera.toMap(0, 0);
  const [x1, y0] = camera.toMap(camera.width, camera.height);
  return [x0, y0, x1, y1];
}

export function areasOf(scene: Scene, at: number): Extract<Scene["layers"][0], { kind: "areas" }> {
  const layer = entry(scene.layers, at);
  if (layer.kind !== "areas") throw new Error("Sections are of areas.");
  return layer;
}

// The plan with a section in the place of a layer: all else is the plan's, and follows it.
function planOf(plan: Plan, at: number, topology: Topology, part: Part): Plan {
  const own = <T extends object>(whole: T, fields: Partial<T>): T =>
    Object.assign(Object.create(whole) as T, fields);
  const whole = entry(plan.layers, at) as AreaLayer;
  const panels = whole.panels?.map((panel, k) =>
    own<AreaPanel>(panel, { class: (part.panels?.[k]?.class ?? []) as number[] }),
  );
  const layer = own<AreaLayer>(whole, {
    class: (part.class ?? []) as number[],
    panels: panels ?? null,
  });
  const layers = plan.layers.map((one, i) => (i === at ? layer : one));
  return own<Plan>(plan, { topology, layers });
}
