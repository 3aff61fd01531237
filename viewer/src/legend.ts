// The legend: for areas a row for each class with its count, for symbols nested circles at the
// scale of the map, for lines a stroke.
import { element, svg, swatch } from "./elements";
import { hatchOf } from "./panels";
import type { AreaLayer, Layer, LineLayer, SymbolLayer } from "./payload";

export class Legend {
  private readonly symbols: { plan: SymbolLayer; box: HTMLElement }[] = [];
  private readonly rows = new Map<string, Element>();
  private lit: Element | null = null;

  constructor(layers: Layer[], parent: HTMLElement) {
    for (const layer of layers) {
      if (!layer.legend) continue;
      const part = element("section", "ochre-legend-part", null, parent);
      if (layer.kind === "lines") {
        this.line(layer, part);
        continue;
      }
      element("h2", "ochre-legend-title", layer.legend, part);
      if (layer.kind === "areas" && layer.square) this.square(layer, layer.square, part);
      if (layer.kind === "areas") this.areas(layer, part);
      if (layer.kind === "symbols") {
        this.symbols.push({ plan: layer, box: element("div", "ochre-legend-sizes", null, part) });
        if (layer.key) this.key(layer, layer.key, part);
      }
    }
    if (!parent.childElementCount) parent.hidden = true;
  }

  // Circles keep the scale of the home view, which follows the size of the page.
  resize(home: number): void {
    for (const { plan, box } of this.symbols) box.replaceChildren(nestedCircles(plan, home));
  }

  // Marks the class that the pointer is on.
  light(layer: Layer | null, item: number): void {
    this.lit?.classList.remove("ochre-lit");
    this.lit = layer && layer.kind !== "lines" ? (this.rows.get(`${layer.id}:${(layer.kind === "areas" ? layer.class : layer.key?.class)?.[item]}`) ?? null) : null;
    this.lit?.classList.add("ochre-lit");
  }

  private areas(layer: AreaLayer, part: HTMLElement): void {
    const row = this.list(layer.id, part, "area", (key) => hatchOf(layer, key));
    if (!layer.square) layer.labels.forEach((label, k) => row(k + 1, layer.colours[k], label, layer.counts[k], layer.count_labels[k]));
    if (layer.no_data.count) row(0, layer.no_data.colour, layer.no_data.label, layer.no_data.count, layer.no_data.count_label);
  }

  private key(layer: SymbolLayer, plan: NonNullable<SymbolLayer["key"]>, part: HTMLElement): void {
    element("h2", "ochre-legend-title ochre-legend-key", plan.legend, part);
    const row = this.list(layer.id, part, "symbol", () => null);
    plan.labels.forEach((label, k) => row(k + 1, plan.colours[k], label, plan.class.filter((c) => c === k + 1).length, plan.count_labels[k]));
    if (plan.no_data.count) row(0, plan.no_data.colour, plan.no_data.label, plan.no_data.count, plan.no_data.count_label);
  }

  // One row a class: swatch, label, count.
  private list(id: string, part: HTMLElement, what: string, hatch: (key: number) => string | null) {
    const list = element("ul", "ochre-classes", null, part);
    return (key: number, colour: string, label: string, count: number, shown: string) => {
      const item = element("li", "ochre-class", null, list);
      swatch(colour, item, hatch(key));
      element("span", "ochre-class-label", label, item);
      const n = element("span", "ochre-class-count", shown, item);
      n.title = count === 1 ? `1 ${what}` : `${shown} ${what}s`;
      this.rows.set(`${id}:${key}`, item);
    };
  }

  // The first variable rises upward, the second to the right; a field has the number of its areas.
  private square(layer: AreaLayer, plan: NonNullable<AreaLayer["square"]>, part: HTMLElement): void {
    const side = 38, left = 58, top = 8;
    const size = plan.n * side;
    const [upward, rightward] = plan.titles;
    const drawing = svg("svg", { width: left + size + 24, height: top + size + 38, class: "ochre-square", role: "img",
                                 "aria-label": `${upward}, upward, and ${rightward}, to the right: ${layer.labels.map((label, k) => `${label}: ${layer.count_labels[k]}`).join("; ")}` }, part);
    layer.colours.forEach((colour, k) => {
      const x = left + Math.floor(k / plan.n) * side;
      const y = top + size - ((k % plan.n) + 1) * side;
      const field = svg("rect", { x, y, width: side, height: side, fill: colour, class: "ochre-field" }, drawing);
      svg("title", {}, field, layer.labels[k]);
      svg("text", { x: x + side / 2, y: y + side / 2 + 4, class: isDark(colour) ? "ochre-field-count ochre-on-dark" : "ochre-field-count" }, drawing, layer.count_labels[k]);
      this.rows.set(`${layer.id}:${k + 1}`, field);
    });
    plan.first.forEach((label, i) => svg("text", { x: left - 5, y: top + size - i * side + 4, class: "ochre-tick ochre-tick-up" }, drawing, label));
    plan.second.forEach((label, j) => svg("text", { x: left + j * side, y: top + size + 14, class: "ochre-tick" }, drawing, label));
    svg("text", { x: left, y: top + size + 32, class: "ochre-side" }, drawing, `${rightward} \u2192`);
    svg("text", { transform: `translate(11 ${top + size}) rotate(-90)`, class: "ochre-side" }, drawing, `${upward} \u2192`);
  }

  private line(layer: LineLayer, part: HTMLElement): void {
    part.classList.add("ochre-legend-line");
    const drawing = svg("svg", { width: 30, height: 10, "aria-hidden": "true" }, part);
    const width = layer.width * 1.33;
    svg("line", { x1: 0, x2: 30, y1: 5, y2: 5, stroke: layer.colour, "stroke-width": width,
                  "stroke-dasharray": layer.dash ? `${4 * width} ${3 * width}` : "none" }, drawing);
    element("span", "", layer.legend, part);
  }
}

// White text is read better than black below this lightness.
function isDark(colour: string): boolean {
  const [r, g, b] = [1, 3, 5].map((i) => (parseInt(colour.slice(i, i + 2), 16) / 255) ** 2.2);
  return 0.2126 * r + 0.7152 * g + 0.0722 * b < 0.18;
}

function nestedCircles(plan: SymbolLayer, home: number): SVGElement {
  const r = plan.sizes.r.map((v) => v * home);
  const largest = Math.max(0, ...r);
  const line = 15;
  const base = 2 * largest + line / 2 + 2;
  const labelAt = r.map((v) => base - 2 * v);
  for (let i = r.length - 2; i >= 0; i--) labelAt[i] = Math.min(labelAt[i], labelAt[i + 1] - line);
  const top = Math.min(0, ...labelAt.map((y) => y - line / 2));
  const height = base + 3 - top;
  const out = svg("svg", { width: 2 * largest + 90, height, viewBox: `0 ${top} ${2 * largest + 90} ${height}`, role: "img",
                           "aria-label": `Circle sizes: ${plan.sizes.labels.join(", ")}` });
  r.forEach((v, i) => {
    svg("circle", { cx: largest + 1, cy: base - v, r: v, fill: plan.key ? "#d6d3cf" : plan.colour, "fill-opacity": plan.key ? 1 : 0.62, stroke: "#ffffff" }, out);
    svg("line", { x1: largest + 1, y1: base - 2 * v, x2: 2 * largest + 12, y2: labelAt[i], class: "ochre-leader" }, out);
    svg("text", { x: 2 * largest + 16, y: labelAt[i] + 4, class: "ochre-size-label" }, out, plan.sizes.labels[i]);
  });
  return out;
}
