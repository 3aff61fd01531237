// Drawings of the legend: nested symbols, bars, the square of two variables, a histogram, strokes.
import { element, isDark, svg } from "./elements";
import { dashes } from "./draw-symbols";
import type { AreaLayer, HeatLayer, Histogram, LineLayer, SymbolLayer } from "./payload";
import { say, type Words } from "./words";

const GREY = "#a5a09a";

// Round values at the scale of the map, standing on one line, each with a leader to its label.
export function sizeMarks(plan: SymbolLayer, home: number, words: Words): SVGElement {
  return plan.bar ? barMarks(plan, home, words) : nestedMarks(plan, home, words);
}

function nestedMarks(plan: SymbolLayer, home: number, words: Words): SVGElement {
  const r = plan.sizes.r.map((v) => v * home);
  const low = plan.outline ? Math.min(...plan.outline.y) : -1;
  const tall = (plan.outline ? Math.max(...plan.outline.y) : 1) - low;
  const half = plan.outline ? Math.max(...plan.outline.x) : 1;
  const largest = Math.max(0, ...r);
  const line = 15;
  const base = tall * largest + line / 2 + 2;
  const labelAt = r.map((v) => base - tall * v);
  for (let i = r.length - 2; i >= 0; i--) labelAt[i] = Math.min(labelAt[i], labelAt[i + 1] - line);
  const top = Math.min(0, ...labelAt.map((y) => y - line / 2));
  const height = base + 3 - top;
  const middle = half * largest + 1;
  const width = 2 * half * largest + 26 + 7.5 * Math.max(0, ...plan.sizes.labels.map((l) => l.length));
  const out = svg("svg", { width, height, viewBox: `0 ${top} ${width} ${height}`, role: "img", "aria-label": say(words, "sizes", plan.sizes.labels.join(", ")) });
  const fill = plan.key || plan.second ? GREY : plan.colour;
  r.forEach((v, i) => {
    const look = { fill, "fill-opacity": plan.opacity, stroke: plan.rim };
    if (plan.outline) svg("polygon", { points: plan.outline.x.map((x, k) => `${middle + v * x},${base - v * (plan.outline!.y[k] - low)}`).join(" "), ...look }, out);
    else svg("circle", { cx: middle, cy: base - v, r: v, ...look }, out);
    svg("line", { x1: middle, y1: base - tall * v, x2: 2 * half * largest + 12, y2: labelAt[i], class: "ochre-leader" }, out);
    svg("text", { x: 2 * half * largest + 16, y: labelAt[i] + 4, class: "ochre-size-label" }, out, plan.sizes.labels[i]);
  });
  return out;
}

function barMarks(plan: SymbolLayer, home: number, words: Words): SVGElement {
  const high = plan.bar!.marks.map((v) => v * home);
  const wide = plan.bar!.width * home;
  const room = 12 + 7.5 * Math.max(3, ...plan.sizes.labels.map((l) => l.length));
  const base = Math.max(0, ...high) + 2;
  const out = svg("svg", { width: room * high.length, height: base + 20, role: "img", "aria-label": say(words, "sizes", plan.sizes.labels.join(", ")) });
  high.forEach((v, i) => {
    svg("rect", { x: (i + 0.5) * room - wide / 2, y: base - v, width: wide, height: v, fill: plan.key ? GREY : plan.colour, "fill-opacity": plan.opacity, stroke: plan.rim }, out);
    svg("text", { x: (i + 0.5) * room, y: base + 15, class: "ochre-size-label ochre-middle" }, out, plan.sizes.labels[i]);
  });
  return out;
}

// Bars of the values in the colours of their classes, breaks below; a marker shows one value.
export function histogram(plan: Histogram, colours: string[], lost: string): { drawing: SVGElement; mark: (share: number | null) => void } {
  const width = 190;
  const high = 44;
  const drawing = svg("svg", { viewBox: `0 0 ${width} ${high + 20}`, class: "ochre-histogram", "aria-hidden": "true" });
  const cell = width / plan.counts.length;
  plan.counts.forEach((count, i) => {
    if (count > 0) svg("rect", { x: i * cell, y: high - Math.max(1, count * (high - 4)), width: cell * 0.94, height: Math.max(1, count * (high - 4)), fill: plan.class[i] ? colours[plan.class[i] - 1] : lost }, drawing);
  });
  svg("line", { x1: 0, x2: width, y1: high, y2: high, class: "ochre-axis" }, drawing);
  for (const at of plan.breaks) if (at >= 0 && at <= 1) svg("line", { x1: at * width, x2: at * width, y1: high, y2: high + 4, class: "ochre-axis" }, drawing);
  svg("text", { x: 0, y: high + 16, class: "ochre-tick ochre-start" }, drawing, plan.ends[0]);
  svg("text", { x: width, y: high + 16, class: "ochre-tick ochre-tick-up" }, drawing, plan.ends[1]);
  const needle = svg("path", { d: `M0 ${high + 1}l-5 8h10z`, class: "ochre-needle", visibility: "hidden" }, drawing);
  return {
    drawing,
    mark(share) {
      needle.setAttribute("visibility", share === null ? "hidden" : "visible");
      if (share !== null) needle.setAttribute("transform", `translate(${(share * width).toFixed(1)} 0)`);
    },
  };
}

// The first variable rises upward, the second to the right; a field has the number of its areas.
export function pairSquare(layer: AreaLayer, counts: string[], showCounts: boolean): { drawing: SVGElement; fields: SVGElement[] } {
  const plan = layer.square!;
  const side = 38, left = 58, top = 8;
  const size = plan.n * side;
  const [upward, rightward] = plan.titles;
  const drawing = svg("svg", { width: left + size + 24, height: top + size + 38, class: "ochre-square", role: "img", "aria-label": `${upward} \u2191, ${rightward} \u2192. ${layer.labels.map((label, k) => `${label}: ${counts[k]}`).join("; ")}` });
  const fields = layer.colours.map((colour, k) => {
    const x = left + Math.floor(k / plan.n) * side;
    const y = top + size - ((k % plan.n) + 1) * side;
    const field = svg("rect", { x, y, width: side, height: side, fill: colour, class: "ochre-field" }, drawing);
    svg("title", {}, field, layer.labels[k]);
    if (showCounts) svg("text", { x: x + side / 2, y: y + side / 2 + 4, class: isDark(colour) ? "ochre-field-count ochre-on-dark" : "ochre-field-count" }, drawing, counts[k]);
    return field;
  });
  plan.first.forEach((label, i) => svg("text", { x: left - 5, y: top + size - i * side + 4, class: "ochre-tick ochre-tick-up" }, drawing, label));
  plan.second.forEach((label, j) => svg("text", { x: left + j * side, y: top + size + 14, class: "ochre-tick" }, drawing, label));
  svg("text", { x: left, y: top + size + 32, class: "ochre-side" }, drawing, `${rightward} \u2192`);
  svg("text", { transform: `translate(11 ${top + size}) rotate(-90)`, class: "ochre-side" }, drawing, `${upward} \u2192`);
  return { drawing, fields };
}

// A stroke with its name, as wide as it is drawn.
export function stroke(layer: LineLayer, width: number, zoom: number, label: string, parent: HTMLElement): HTMLElement {
  const row = element("div", "ochre-legend-line", null, parent);
  const high = Math.max(10, width + 4);
  const drawing = svg("svg", { width: 34, height: high, "aria-hidden": "true" }, row);
  const y = high / 2;
  const colour = layer.key ? GREY : layer.colour;
  svg("line", { x1: 0, x2: layer.arrow ? 28 - width : 32, y1: y, y2: y, stroke: colour, "stroke-width": width, "stroke-dasharray": dashes(layer, width, zoom).join(" ") || "none" }, drawing);
  if (layer.arrow) svg("path", { d: `M34 ${y}l${-(4 + 2 * width)} ${-(2 + width)}v${4 + 2 * width}z`, fill: colour }, drawing);
  element("span", "", label, row);
  return row;
}

// Colours that flow from one end to the other, with a word for each end.
export function flow(layer: HeatLayer, opacity: number, parent: HTMLElement): void {
  const bar = element("div", "ochre-flow", null, parent);
  bar.style.backgroundImage = `linear-gradient(to right, ${layer.colours.join(", ")})`;
  bar.style.opacity = String(layer.opacity * opacity);
  const ends = element("div", "ochre-flow-ends", null, parent);
  for (const label of [layer.labels[0], layer.labels[layer.labels.length - 1]]) element("span", "", label, ends);
}
