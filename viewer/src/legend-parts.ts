// Drawings of the legend: nested symbols, bars, the square of two variables, a histogram, strokes.
import { element, isDark, svg } from "./elements";
import { dashes } from "./draw-symbols";
import { entry } from "./entry";
import type { AreaLayer, Bar, HeatLayer, Histogram, LineLayer, Square, SymbolLayer } from "./plan";
import { say, type Words } from "./words";

const GREY = "#a5a09a";

// Round values at the scale of the map, standing on one line, each with a leader to its label.
export function sizeMarks(plan: SymbolLayer, home: number, words: Words): Element {
  if (plan.plain) return plainMark(plan, home);
  return plan.bar ? barMarks(plan, plan.bar, home, words) : nestedMarks(plan, home, words);
}

// One symbol with the name of the layer, where all are alike.
function plainMark(plan: SymbolLayer, home: number): Element {
  const row = element("div", "ochre-place-row", null);
  const { x: xs, y: ys } = plan.outline ?? { x: [-1, 1], y: [-1, 1] };
  const tall = Math.max(...ys) - Math.min(...ys);
  const r = Math.min(entry(plan.sizes.r, 0) * home, 18 / tall);
  const [width, height] = [2 * Math.max(...xs) * r + 2, tall * r + 2];
  const box = { width, height, viewBox: `0 0 ${width} ${height}`, "aria-hidden": "true" };
  nestedMark(plan, r, width / 2, height - 1, svg("svg", box, row));
  element("span", "", plan.sizes.labels[0] ?? "", row);
  return row;
}

function nestedMarks(plan: SymbolLayer, home: number, words: Words): SVGElement {
  const r = plan.sizes.r.map((v) => v * home);
  const { x: xs, y: ys } = plan.outline ?? { x: [1], y: [-1, 1] };
  const low = Math.min(...ys);
  const tall = Math.max(...ys) - low;
  const largest = Math.max(0, ...r);
  const line = 15;
  const base = tall * largest + line / 2 + 2;
  const labelAt = r.map((v) => base - tall * v);
  for (let i = r.length - 2; i >= 0; i--)
    labelAt[i] = Math.min(entry(labelAt, i), entry(labelAt, i + 1) - line);
  const top = Math.min(0, ...labelAt.map((y) => y - line / 2));
  const wide = 2 * Math.max(...xs) * largest;
  const longest = Math.max(0, ...plan.sizes.labels.map((l) => l.length));
  const out = marksBox(plan, [wide + 26 + 7.5 * longest, base + 3 - top], top, words);
  const middle = wide / 2 + 1;
  r.forEach((v, i) => {
    const [y1, y2] = [base - tall * v, entry(labelAt, i)];
    nestedMark(plan, v, middle, base, out);
    svg("line", { x1: middle, y1, x2: wide + 12, y2, class: "ochre-leader" }, out);
    const label = { x: wide + 16, y: y2 + 4, class: "ochre-size-label" };
    svg("text", label, out, plan.sizes.labels[i]);
  });
  return out;
}

// One symbol of radius `r` that stands on the line.
function nestedMark(plan: SymbolLayer, r: number, x: number, base: number, out: Element): void {
  const fill = plan.key || plan.second ? GREY : plan.colour;
  const look = { fill, "fill-opacity": plan.opacity, stroke: plan.rim };
  const { outline } = plan;
  if (!outline) {
    svg("circle", { cx: x, cy: base - r, r, ...look }, out);
    return;
  }
  const low = Math.min(...outline.y);
  const points = outline.x.map(
    (ox, k) => `${x + r * ox},${base - r * (entry(outline.y, k) - low)}`,
  );
  svg("polygon", { points: points.join(" "), ...look }, out);
}

function marksBox(
  plan: SymbolLayer,
  [width, height]: [number, number],
  top: number,
  words: Words,
): SVGElement {
  return svg("svg", {
    width,
    height,
    viewBox: `0 ${top} ${width} ${height}`,
    role: "img",
    "aria-label": say(words, "sizes", plan.sizes.labels.join(", ")),
  });
}

function barMarks(plan: SymbolLayer, bar: Bar, home: number, words: Words): SVGElement {
  const high = bar.marks.map((v) => v * home);
  const wide = bar.width * home;
  const room = 12 + 7.5 * Math.max(3, ...plan.sizes.labels.map((l) => l.length));
  const base = Math.max(0, ...high) + 2;
  const out = marksBox(plan, [room * high.length, base + 20], 0, words);
  const fill = plan.key ? GREY : plan.colour;
  high.forEach((v, i) => {
    const x = (i + 0.5) * room;
    const size = { x: x - wide / 2, y: base - v, width: wide, height: v };
    svg("rect", { ...size, fill, "fill-opacity": plan.opacity, stroke: plan.rim }, out);
    const label = { x, y: base + 15, class: "ochre-size-label ochre-middle" };
    svg("text", label, out, plan.sizes.labels[i]);
  });
  return out;
}

// Bars of the values in the colours of their classes, breaks below; a marker shows one value.
export function histogram(
  plan: Histogram,
  colours: string[],
  lost: string,
): { drawing: SVGElement; mark: (share: number | null) => void } {
  const drawing = svg("svg", {
    viewBox: `0 0 ${WIDE} ${HIGH + 20}`,
    class: "ochre-histogram",
    "aria-hidden": "true",
  });
  const cell = WIDE / plan.counts.length;
  plan.counts.forEach((count, i) => {
    if (count <= 0) return;
    const height = Math.max(1, count * (HIGH - 4));
    const fill = entry(plan.class, i) ? entry(colours, entry(plan.class, i) - 1) : lost;
    svg("rect", { x: i * cell, y: HIGH - height, width: cell * 0.94, height, fill }, drawing);
  });
  axis(plan, drawing);
  const shape = `M0 ${HIGH + 1}l-5 8h10z`;
  const needle = svg("path", { d: shape, class: "ochre-needle", visibility: "hidden" }, drawing);
  const mark = (share: number | null) => {
    needle.setAttribute("visibility", share === null ? "hidden" : "visible");
    if (share === null) return;
    needle.setAttribute("transform", `translate(${(share * WIDE).toFixed(1)} 0)`);
  };
  return { drawing, mark };
}

const WIDE = 190;
const HIGH = 44;

// The line under the bars, the breaks, and what stands at both ends.
function axis(plan: Histogram, drawing: SVGElement): void {
  const line = { class: "ochre-axis", y1: HIGH };
  svg("line", { ...line, x1: 0, x2: WIDE, y2: HIGH }, drawing);
  for (const at of plan.breaks) {
    if (at < 0 || at > 1) continue;
    svg("line", { ...line, x1: at * WIDE, x2: at * WIDE, y2: HIGH + 4 }, drawing);
  }
  const y = HIGH + 16;
  svg("text", { x: 0, y, class: "ochre-tick ochre-start" }, drawing, plan.ends[0]);
  svg("text", { x: WIDE, y, class: "ochre-tick ochre-tick-up" }, drawing, plan.ends[1]);
}

// The first variable rises upward, the second to the right; a field has the number of its areas.
export function pairSquare(
  layer: AreaLayer,
  square: Square,
  counts: string[],
  showCounts: boolean,
): { drawing: SVGElement; fields: SVGElement[] } {
  const size = square.n * SIDE;
  const [upward, rightward] = square.titles;
  const said = layer.labels.map((label, k) => `${label}: ${counts[k]}`).join("; ");
  const drawing = svg("svg", {
    width: LEFT + size + 24,
    height: TOP + size + 38,
    class: "ochre-square",
    role: "img",
    "aria-label": `${upward} \u2191, ${rightward} \u2192. ${said}`,
  });
  const fields = layer.colours.map((colour, k) => {
    const x = LEFT + Math.floor(k / square.n) * SIDE;
    const y = TOP + size - ((k % square.n) + 1) * SIDE;
    const look = { x, y, width: SIDE, height: SIDE, fill: colour, class: "ochre-field" };
    const field = svg("rect", look, drawing);
    svg("title", {}, field, layer.labels[k]);
    if (showCounts) fieldCount(x, y, entry(counts, k), colour, drawing);
    return field;
  });
  sides(square, drawing);
  return { drawing, fields };
}

const SIDE = 38;
const LEFT = 58;
const TOP = 8;

function fieldCount(x: number, y: number, count: string, colour: string, out: Element): void {
  const name = isDark(colour) ? "ochre-field-count ochre-on-dark" : "ochre-field-count";
  svg("text", { x: x + SIDE / 2, y: y + SIDE / 2 + 4, class: name }, out, count);
}

// Breaks and titles along both sides.
function sides({ n, titles, first, second }: Square, drawing: Element): void {
  const size = n * SIDE;
  first.forEach((label, i) => {
    const y = TOP + size - i * SIDE + 4;
    svg("text", { x: LEFT - 5, y, class: "ochre-tick ochre-tick-up" }, drawing, label);
  });
  second.forEach((label, j) => {
    const x = LEFT + j * SIDE;
    svg("text", { x, y: TOP + size + 14, class: "ochre-tick" }, drawing, label);
  });
  const [upward, rightward] = titles.map((title) => `${title} \u2192`);
  svg("text", { x: LEFT, y: TOP + size + 32, class: "ochre-side" }, drawing, rightward);
  const turn = `translate(11 ${TOP + size}) rotate(-90)`;
  svg("text", { transform: turn, class: "ochre-side" }, drawing, upward);
}

// A stroke with its name, as wide as it is drawn.
export function stroke(
  layer: LineLayer,
  width: number,
  zoom: number,
  label: string,
  parent: HTMLElement,
): HTMLElement {
  const row = element("div", "ochre-legend-line", null, parent);
  const high = Math.max(10, width + 4);
  const drawing = svg("svg", { width: 34, height: high, "aria-hidden": "true" }, row);
  const y = high / 2;
  const colour = layer.key ? GREY : layer.colour;
  svg(
    "line",
    {
      x1: 0,
      x2: layer.arrow ? 28 - width : 32,
      y1: y,
      y2: y,
      stroke: colour,
      "stroke-width": width,
      "stroke-dasharray": dashes(layer, width, zoom).join(" ") || "none",
    },
    drawing,
  );
  if (layer.arrow)
    svg(
      "path",
      { d: `M34 ${y}l${-(4 + 2 * width)} ${-(2 + width)}v${4 + 2 * width}z`, fill: colour },
      drawing,
    );
  element("span", "", label, row);
  return row;
}

// Colours that flow from one end to the other, with a word for each end.
export function flow(layer: HeatLayer, opacity: number, parent: HTMLElement): void {
  const bar = element("div", "ochre-flow", null, parent);
  bar.style.backgroundImage = `linear-gradient(to right, ${layer.colours.join(", ")})`;
  bar.style.opacity = String(layer.opacity * opacity);
  const ends = element("div", "ochre-flow-ends", null, parent);
  for (const label of [layer.labels[0], layer.labels[layer.labels.length - 1]])
    element("span", "", label, ends);
}
