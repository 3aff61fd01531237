// The legend: for areas a row for each class with its count, for symbols their sizes at the scale
// of the map, for lines a stroke. A class is brought out while the pointer or the focus is on its
// row, and switched off and on by a press.
import { element, swatch } from "./elements";
import { lineWidth, sizeAt } from "./draw-symbols";
import { entry } from "./entry";
import { flow, histogram, pairSquare, sizeMarks, stroke } from "./legend-parts";
import { hatchOf } from "./panels";
import type { AreaLayer, Key, Layer, LineLayer, SymbolLayer } from "./plan";
import { areaPanel, classAt, panelOf, type MapState } from "./state";
import { say, writeNumber } from "./words";

// Pixels of a stroke that stands for lines of several widths.
const MIDDLE_WIDTH = 2.67;

// What is counted, once and several times.
const COUNTED: Record<string, [string, string] | undefined> = {
  lines: ["one_line", "many_lines"],
  symbols: ["one_place", "places"],
};

interface KeyLook {
  title: string | null;
  opacity: number;
  // How many features of a class there are in the panel that is shown.
  count: (k: number) => number;
}

// What is all alike has its name beside a stroke, a symbol or a swatch.
function hasTitle(layer: Layer): boolean {
  if (isEmpty(layer)) return true;
  if (layer.kind === "areas") return layer.labels.join() !== layer.legend;
  if (layer.kind === "lines") return layer.widths !== null;
  return layer.kind !== "symbols" || !layer.plain || layer.key !== null;
}

// A layer of symbols or lines of which none is drawn; the note of its legend says so.
const isEmpty = (layer: Layer): boolean =>
  (layer.kind === "symbols" || layer.kind === "lines") && layer.legend_note !== null;

export class Legend {
  private sizes: { plan: SymbolLayer; box: HTMLElement }[] = [];
  private rows = new Map<string, Element>();
  private marks = new Map<number, (share: number | null) => void>();
  private lit: Element | null = null;
  private home = 1;
  private zoom = 1;

  constructor(
    private readonly state: MapState,
    private readonly parent: HTMLElement,
  ) {
    this.render();
    state.on(["panel", "look", "layers"], () => this.render());
    state.on(["classes"], () => this.press());
  }

  // Symbols keep the scale of the home view, which follows the size of the page.
  resize(home: number): void {
    this.home = home;
    for (const { plan, box } of this.sizes)
      box.replaceChildren(
        sizeMarks(plan, home * sizeAt(plan, this.zoom), this.state.payload.words),
      );
  }

  // What changes with the zoom is shown as it is now.
  zoomTo(zoom: number): void {
    if (zoom === this.zoom) return;
    this.zoom = zoom;
    if (
      this.state.payload.layers.some(
        (l) => (l.kind === "lines" || l.kind === "symbols") && l.zoomed,
      )
    )
      this.render();
  }

  // Marks the class and the value that the pointer is on.
  light(index: number | null, item: number): void {
    this.lit?.classList.remove("ochre-lit");
    const layer = index === null ? null : this.state.payload.layers[index];
    this.lit = layer
      ? (this.rows.get(`${index}:${classAt(layer, item, this.state.panel)}`) ?? null)
      : null;
    this.lit?.classList.add("ochre-lit");
    this.marks.forEach((mark, at) => {
      const share =
        layer && at === index ? areaPanel(layer, this.state.panel)?.share?.[item] : undefined;
      mark(share === undefined || share < 0 ? null : share / 1000);
    });
  }

  private render(): void {
    this.state.letOut();
    this.parent.replaceChildren();
    this.sizes = [];
    this.rows.clear();
    this.marks.clear();
    const { payload } = this.state;
    payload.layers.forEach((layer, i) => {
      if (!layer.legend || payload.style.legend.place === "none" || this.state.hidden.has(i))
        return;
      const part = element(
        "section",
        `ochre-legend-part ochre-legend-${layer.kind}`,
        null,
        this.parent,
      );
      if (hasTitle(layer)) element("h2", "ochre-legend-title", layer.legend, part);
      if (layer.legend_note) element("p", "ochre-legend-note", layer.legend_note, part);
      this.part(layer, i, part);
    });
    this.parent.hidden = !this.parent.childElementCount;
    this.resize(this.home);
    this.press();
  }

  private part(layer: Layer, i: number, part: HTMLElement): void {
    if (isEmpty(layer)) return;
    if (layer.kind === "areas") this.areas(layer, i, part);
    if (layer.kind === "heat") flow(layer, entry(this.state.opacity, i), part);
    if (layer.kind === "density") {
      const opacity = layer.opacity * entry(this.state.opacity, i);
      swatches(layer.colours, layer.labels, opacity, part);
    }
    if (layer.kind === "symbols") this.symbols(layer, i, part);
    if (layer.kind === "lines") this.lines(layer, i, part);
    if (this.state.payload.style.legend.place === "below")
      part.classList.toggle("ochre-strip", isStrip(layer));
  }

  private symbols(layer: SymbolLayer, i: number, part: HTMLElement): void {
    const { payload, panel } = this.state;
    const opacity = layer.opacity * entry(this.state.opacity, i);
    if (layer.group) element("p", "ochre-legend-note", say(payload.words, "grouped"), part);
    const { second, key } = layer;
    if (!layer.plain || !key)
      this.sizes.push({ plan: layer, box: element("div", "ochre-legend-sizes", null, part) });
    if (second) swatches([layer.colour, second.colour], second.labels, opacity, part);
    if (!key) return;
    const here = (at: number) => !layer.panel || layer.panel[at] === panel + 1;
    const count = (k: number) => key.class.filter((c, at) => c === k && here(at)).length;
    this.key(key, i, part, { title: layer.legend, opacity, count });
  }

  private lines(layer: LineLayer, i: number, part: HTMLElement): void {
    const { widths, key } = layer;
    if (widths)
      widths.labels.forEach((label, k) =>
        stroke(layer, entry(widths.width, k), this.zoom, label, part),
      );
    else {
      const width = layer.width.length > 1 ? MIDDLE_WIDTH : lineWidth(layer, 0, this.zoom);
      stroke(layer, width, this.zoom, layer.legend ?? "", part);
    }
    if (!key) return;
    const count = (k: number) => key.class.filter((c) => c === k).length;
    this.key(key, i, part, { title: null, opacity: entry(this.state.opacity, i), count });
  }

  private areas(layer: AreaLayer, i: number, part: HTMLElement): void {
    const { payload, panel } = this.state;
    const now = panelOf(layer, panel);
    const colours = now.colours ?? layer.colours;
    if (layer.square) {
      const { counts } = payload.style.legend;
      const { drawing, fields } = pairSquare(layer, layer.square, now.count_labels, counts);
      part.append(drawing);
      fields.forEach((field, k) => {
        this.rows.set(`${i}:${k + 1}`, field);
        field.addEventListener("pointerenter", () => this.state.bringOut(i, k + 1));
        field.addEventListener("pointerleave", () => this.state.bringOut(i, null));
      });
    }
    const bars = now.histogram ?? layer.histogram;
    if (payload.style.legend.histogram && bars) {
      const { drawing, mark } = histogram(bars, colours, now.no_data.colour);
      part.append(drawing);
      this.marks.set(i, mark);
    }
    const row = this.list(i, part, (key) => hatchOf(layer, key), entry(this.state.opacity, i));
    if (!layer.square)
      (now.labels ?? layer.labels).forEach((label, k) =>
        row(k + 1, entry(colours, k), label, entry(now.count_labels, k)),
      );
    if (now.no_data.count) row(0, now.no_data.colour, now.no_data.label, now.no_data.count_label);
  }

  // The classes of a key; `title` is the one that already stands above.
  private key(plan: Key, i: number, part: HTMLElement, look: KeyLook): void {
    if (plan.legend !== look.title)
      element("h2", "ochre-legend-title ochre-legend-key", plan.legend, part);
    const row = this.list(i, part, () => null, look.opacity);
    const { panels, marks } = this.state.payload;
    plan.labels.forEach((label, k) => {
      const count = panels ? writeNumber(look.count(k + 1), 0, marks) : entry(plan.count_labels, k);
      row(k + 1, entry(plan.colours, k), label, count);
    });
    const lost = plan.no_data;
    if (lost.count) row(0, lost.colour, lost.label, lost.count_label);
  }

  // One row a class: swatch, label, count.
  private list(
    i: number,
    part: HTMLElement,
    hatch: (key: number) => string | null,
    opacity: number,
  ) {
    const { payload } = this.state;
    const list = element("ul", "ochre-classes", null, part);
    return (key: number, colour: string, label: string, count: string) => {
      const row = element("button", "ochre-class", null, element("li", "", null, list));
      row.type = "button";
      row.title = say(payload.words, "switch_class");
      swatchRow(row, colour, label, opacity, hatch(key));
      if (payload.style.legend.counts) this.count(i, count, row);
      row.addEventListener("pointerenter", () => this.state.bringOut(i, key));
      row.addEventListener("pointerleave", () => this.state.bringOut(i, null));
      row.addEventListener(
        "focus",
        () => row.matches(":focus-visible") && this.state.bringOut(i, key),
      );
      row.addEventListener("blur", () => this.state.bringOut(i, null));
      row.addEventListener("click", () => this.state.toggleClass(i, key));
      this.rows.set(`${i}:${key}`, row);
    };
  }

  // A number for the eye, and what it counts for the ear.
  private count(i: number, count: string, row: HTMLElement): void {
    const { layers, words } = this.state.payload;
    const { kind } = entry(layers, i);
    const one = count === "1";
    const [single, several] = COUNTED[kind] ?? ["one_area", "many_areas"];
    const spoken = say(words, one ? single : several, count);
    const seen = element("span", "ochre-class-count", count, row);
    seen.setAttribute("aria-hidden", "true");
    element("span", "ochre-unseen", `, ${spoken}`, row);
  }

  private press(): void {
    this.rows.forEach((row, at) => {
      if (!(row instanceof HTMLElement)) return;
      const [layer = 0, key = 0] = at.split(":").map(Number);
      row.setAttribute("aria-pressed", String(!this.state.isOff(layer, key)));
    });
  }
}

function swatchRow(
  row: HTMLElement,
  colour: string,
  label: string,
  opacity: number,
  hatch: string | null = null,
): void {
  swatch(colour, row, hatch).style.opacity = String(opacity);
  element("span", "ochre-class-label", label, row);
}

// Colours with their words, which cannot be switched.
function swatches(colours: string[], labels: string[], opacity: number, part: HTMLElement): void {
  const list = element("ul", "ochre-classes", null, part);
  labels.forEach((label, k) =>
    swatchRow(element("li", "ochre-class", null, list), entry(colours, k), label, opacity),
  );
}

// Classes whose words are short enough to stand beside each other.
function isStrip(layer: Layer): boolean {
  if (layer.kind === "density") return true;
  return layer.kind === "areas" && !layer.square && layer.labels.every((l) => l.length < 18);
}
