// The legend: for areas a row for each class with its count, for symbols their sizes at the scale of the map, for lines a stroke.
// A class is brought out while the pointer or the focus is on its row, and switched off and on by a press.
import { element, swatch } from "./elements";
import { lineWidth, PIXELS_PER_POINT, sizeAt } from "./draw-symbols";
import { flow, histogram, pairSquare, sizeMarks, stroke } from "./legend-parts";
import { hatchOf } from "./panels";
import type { AreaLayer, Key, Layer, SymbolLayer } from "./payload";
import { areaPanel, classAt, type MapState } from "./state";
import { say, writeNumber } from "./words";

export class Legend {
  private sizes: { plan: SymbolLayer; box: HTMLElement }[] = [];
  private rows = new Map<string, Element>();
  private marks = new Map<number, (share: number | null) => void>();
  private lit: Element | null = null;
  private home = 1;
  private zoom = 1;

  constructor(private readonly state: MapState, private readonly parent: HTMLElement) {
    this.render();
    state.onChange((what) => {
      if (what === "panel" || what === "look" || what === "layers") this.render();
      if (what === "classes") this.press();
    });
  }

  // Symbols keep the scale of the home view, which follows the size of the page.
  resize(home: number): void {
    this.home = home;
    for (const { plan, box } of this.sizes) box.replaceChildren(sizeMarks(plan, home * sizeAt(plan, this.zoom), this.state.payload.words));
  }

  // What changes with the zoom is shown as it is now.
  zoomTo(zoom: number): void {
    if (zoom === this.zoom) return;
    this.zoom = zoom;
    if (this.state.payload.layers.some((l) => (l.kind === "lines" || l.kind === "symbols") && l.zoomed)) this.render();
  }

  // Marks the class and the value that the pointer is on.
  light(index: number | null, item: number): void {
    this.lit?.classList.remove("ochre-lit");
    const layer = index === null ? null : this.state.payload.layers[index];
    this.lit = layer ? (this.rows.get(`${index}:${classAt(layer, item, this.state.panel)}`) ?? null) : null;
    this.lit?.classList.add("ochre-lit");
    this.marks.forEach((mark, at) => {
      const share = layer && at === index ? areaPanel(layer, this.state.panel)?.share?.[item] : undefined;
      mark(share === undefined || share < 0 ? null : share / 1000);
    });
  }

  private render(): void {
    this.parent.replaceChildren();
    this.sizes = [];
    this.rows.clear();
    this.marks.clear();
    const { payload } = this.state;
    payload.layers.forEach((layer, i) => {
      if (!layer.legend || payload.style.place === "none" || this.state.hidden.has(i)) return;
      const part = element("section", `ochre-legend-part ochre-legend-${layer.kind}`, null, this.parent);
      if (layer.kind !== "lines" || layer.widths) element("h2", "ochre-legend-title", layer.legend, part);
      if (layer.legend_note) element("p", "ochre-legend-note", layer.legend_note, part);
      this.part(layer, i, part);
    });
    this.parent.hidden = !this.parent.childElementCount;
    this.resize(this.home);
    this.press();
  }

  private part(layer: Layer, i: number, part: HTMLElement): void {
    const { payload, panel } = this.state;
    if (layer.kind === "areas") this.areas(layer, i, part);
    if (layer.kind === "heat") flow(layer, this.state.opacity[i], part);
    if (layer.kind === "density") {
      const list = element("ul", "ochre-classes", null, part);
      layer.labels.forEach((label, k) => swatchRow(element("li", "ochre-class", null, list), layer.colours[k], label, layer.opacity * this.state.opacity[i]));
    }
    if (layer.kind === "symbols") {
      if (layer.group) element("p", "ochre-legend-note", say(payload.words, "grouped"), part);
      this.sizes.push({ plan: layer, box: element("div", "ochre-legend-sizes", null, part) });
      if (layer.second) {
        const list = element("ul", "ochre-classes", null, part);
        [layer.colour, layer.second.colour].forEach((colour, k) => swatchRow(element("li", "ochre-class", null, list), colour, layer.second!.labels[k], layer.opacity * this.state.opacity[i]));
      }
      if (layer.key) this.key(layer.key, i, part, layer.legend, layer.opacity * this.state.opacity[i], (k) => layer.key!.class.filter((c, at) => c === k && (!layer.panel || layer.panel[at] === panel + 1)).length);
    }
    if (layer.kind === "lines") {
      if (layer.widths) layer.widths.labels.forEach((label, k) => stroke(layer, layer.widths!.width[k] * PIXELS_PER_POINT, this.zoom, label, part));
      else stroke(layer, Array.isArray(layer.width) ? 2 * PIXELS_PER_POINT : lineWidth(layer, 0, this.zoom), this.zoom, layer.legend!, part);
      if (layer.key) this.key(layer.key, i, part, null, this.state.opacity[i], (k) => layer.key!.class.filter((c) => c === k).length);
    }
    if (payload.style.place === "below") part.classList.toggle("ochre-strip", (layer.kind === "areas" && !layer.square && layer.labels.every((l) => l.length < 18)) || layer.kind === "density");
  }

  private areas(layer: AreaLayer, i: number, part: HTMLElement): void {
    const { payload, panel } = this.state;
    const now = areaPanel(layer, panel)!;
    const colours = now.colours ?? layer.colours;
    if (layer.square) {
      const { drawing, fields } = pairSquare(layer, now.count_labels, payload.style.counts);
      part.append(drawing);
      fields.forEach((field, k) => {
        this.rows.set(`${i}:${k + 1}`, field);
        field.addEventListener("pointerenter", () => this.state.bringOut(i, k + 1));
        field.addEventListener("pointerleave", () => this.state.bringOut(i, null));
      });
    }
    const bars = now.histogram ?? layer.histogram;
    if (payload.style.histogram && bars) {
      const { drawing, mark } = histogram(bars, colours, now.no_data.colour);
      part.append(drawing);
      this.marks.set(i, mark);
    }
    const row = this.list(i, part, (key) => hatchOf(layer, key), this.state.opacity[i]);
    if (!layer.square) (now.labels ?? layer.labels).forEach((label, k) => row(k + 1, colours[k], label, now.count_labels[k]));
    if (now.no_data.count) row(0, now.no_data.colour, now.no_data.label, now.no_data.count_label);
  }

  private key(plan: Key, i: number, part: HTMLElement, title: string | null, opacity: number, count: (k: number) => number): void {
    if (plan.legend !== title) element("h2", "ochre-legend-title ochre-legend-key", plan.legend, part);
    const row = this.list(i, part, () => null, opacity);
    const panels = this.state.payload.panels;
    plan.labels.forEach((label, k) => row(k + 1, plan.colours[k], label, panels ? writeNumber(count(k + 1), 0, this.state.payload.marks) : plan.count_labels[k]));
    if (plan.no_data.count) row(0, plan.no_data.colour, plan.no_data.label, plan.no_data.count_label);
  }

  // One row a class: swatch, label, count.
  private list(i: number, part: HTMLElement, hatch: (key: number) => string | null, opacity: number) {
    const { payload } = this.state;
    const list = element("ul", "ochre-classes", null, part);
    return (key: number, colour: string, label: string, count: string) => {
      const row = element("button", "ochre-class", null, element("li", "", null, list));
      row.type = "button";
      row.title = say(payload.words, "switch_class");
      swatchRow(row, colour, label, opacity, hatch(key));
      if (payload.style.counts) element("span", "ochre-class-count", count, row);
      row.addEventListener("pointerenter", () => this.state.bringOut(i, key));
      row.addEventListener("pointerleave", () => this.state.bringOut(i, null));
      row.addEventListener("focus", () => row.matches(":focus-visible") && this.state.bringOut(i, key));
      row.addEventListener("blur", () => this.state.bringOut(i, null));
      row.addEventListener("click", () => this.state.toggleClass(i, key));
      this.rows.set(`${i}:${key}`, row);
    };
  }

  private press(): void {
    this.rows.forEach((row, at) => {
      if (!(row instanceof HTMLElement)) return;
      const [layer, key] = at.split(":").map(Number);
      row.setAttribute("aria-pressed", String(!this.state.isOff(layer, key)));
    });
  }
}

function swatchRow(row: HTMLElement, colour: string, label: string, opacity: number, hatch: string | null = null): void {
  swatch(colour, row, hatch).style.opacity = String(opacity);
  element("span", "ochre-class-label", label, row);
}

