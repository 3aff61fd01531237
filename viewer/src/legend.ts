// The legend: for areas a row for each class with its count, for symbols nested circles at the
// scale of the map, for lines a stroke.
import { element, svg, swatch } from "./elements";
import type { AreaLayer, Layer, LineLayer, SymbolLayer } from "./payload";

export class Legend {
  private readonly symbols: { plan: SymbolLayer; box: HTMLElement }[] = [];
  private readonly rows = new Map<string, HTMLElement>();
  private lit: HTMLElement | null = null;

  constructor(layers: Layer[], parent: HTMLElement) {
    for (const layer of layers) {
      if (!layer.legend) continue;
      const part = element("section", "ochre-legend-part", null, parent);
      if (layer.kind === "lines") {
        this.line(layer, part);
        continue;
      }
      element("h2", "ochre-legend-title", layer.legend, part);
      if (layer.kind === "areas") this.areas(layer, part);
      else this.symbols.push({ plan: layer, box: element("div", "ochre-legend-sizes", null, part) });
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
    this.lit = layer?.kind === "areas" ? (this.rows.get(`${layer.id}:${layer.class[item]}`) ?? null) : null;
    this.lit?.classList.add("ochre-lit");
  }

  private areas(layer: AreaLayer, part: HTMLElement): void {
    const list = element("ul", "ochre-classes", null, part);
    const row = (key: number, colour: string, label: string, count: number) => {
      const item = element("li", "ochre-class", null, list);
      swatch(colour, item);
      element("span", "ochre-class-label", label, item);
      const n = element("span", "ochre-class-count", count.toLocaleString("en"), item);
      n.title = count === 1 ? "1 area" : `${count.toLocaleString("en")} areas`;
      this.rows.set(`${layer.id}:${key}`, item);
    };
    layer.labels.forEach((label, k) => row(k + 1, layer.colours[k], label, layer.counts[k]));
    if (layer.no_data.count) row(0, layer.no_data.colour, layer.no_data.label, layer.no_data.count);
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
    svg("circle", { cx: largest + 1, cy: base - v, r: v, fill: plan.colour, "fill-opacity": 0.62, stroke: "#ffffff" }, out);
    svg("line", { x1: largest + 1, y1: base - 2 * v, x2: 2 * largest + 12, y2: labelAt[i], class: "ochre-leader" }, out);
    svg("text", { x: 2 * largest + 16, y: labelAt[i] + 4, class: "ochre-size-label" }, out, plan.sizes.labels[i]);
  });
  return out;
}
